const MOVES = ['pointermove', 'pointerdown', 'dragover', 'keydown'] as const
const RELEASES = ['pointerup', 'pointercancel', 'dragend'] as const
/** Before whatever is pressed hears of it, and whether that tells others or not. */
const EARLY = { capture: true, passive: true }
/** Somebody who has not moved for so long is not about to press. */
const REST_MS = 700
/** So long it waits at most for one who moves on and on; never while something is pressed or dragged. */
const MOST_MS = 3000

/**
 * What would move the page under the pointer waits until the pointer rests: who was about to press one thing does not
 * press another.
 * @param then called once
 * @returns stops waiting
 */
export function whenResting(then: () => void, target: EventTarget = window): () => void {
  const latest = performance.now() + MOST_MS
  let turn: ReturnType<typeof setTimeout> | undefined
  let isPressed = false
  const stop = (): void => {
    clearTimeout(turn)
    for (const name of MOVES) target.removeEventListener(name, moved, EARLY)
    for (const name of RELEASES) target.removeEventListener(name, released, EARLY)
  }
  const done = (): void => {
    stop()
    then()
  }
  const wait = (): void => {
    clearTimeout(turn)
    if (!isPressed) turn = setTimeout(done, Math.max(0, Math.min(REST_MS, latest - performance.now())))
  }
  const moved = ({ type }: Event): void => {
    if (type === 'pointerdown' || type === 'dragover') isPressed = true
    wait()
  }
  const released = (): void => {
    isPressed = false
    wait()
  }
  for (const name of MOVES) target.addEventListener(name, moved, EARLY)
  for (const name of RELEASES) target.addEventListener(name, released, EARLY)
  wait()
  return stop
}
