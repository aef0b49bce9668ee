import { log } from './log.ts'

/** Clocks are led by the second all the time; what is more was set. */
const SET_MS = 5000

/** Notices that somebody, or a time server after a while, has set the clock of this machine. */
export class WallClock {
  #aheadMs: number

  constructor(
    private readonly now: () => number = Date.now,
    private readonly running: () => number = () => performance.now(),
  ) {
    this.#aheadMs = now() - running()
  }

  /** Whether it was set since this was asked last. */
  wasSet(): boolean {
    const aheadMs = this.now() - this.running()
    const byMs = aheadMs - this.#aheadMs
    this.#aheadMs = aheadMs
    if (Math.abs(byMs) < SET_MS) return false
    log.warn({ byMs: Math.round(byMs) }, 'the clock of this machine was set')
    return true
  }
}
