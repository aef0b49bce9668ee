/** From here on a clock is off, and from there on badly; back within the last it is right again. Milliseconds. */
export const SKEW_LINES = { warningMs: 30_000, criticalMs: 300_000, backMs: 10_000 } as const

/** So many pushes are looked at together. */
const LOOKED_AT = 5
/** What is sent late by a queue comes by turns earlier and later; what a clock is off by stays the same. */
const STEADY_MS = 5_000

/**
 * By how much the clock of a sender is off, from how long after their own time its pushes came.
 * @param gapMs between two of its pushes: one that dates its readings from the beginning of its interval is late by up to this
 * @param lagsMs of its last pushes, the newest last: heard minus the newest time in the push; negative when dated ahead
 * @returns ms, positive when its clock is ahead; `null` while nothing can be said. A reading cannot come from the future,
 *   so one push dated ahead is proof; behind, five in a row late by the same time are.
 */
export function skewOf(lagsMs: readonly number[], gapMs: number): number | null {
  const newest = lagsMs.at(-1)
  if (newest === undefined) return null
  if (newest < 0) return -newest
  if (lagsMs.length < LOOKED_AT) return null
  const looked = lagsMs.slice(-LOOKED_AT)
  const least = Math.min(...looked)
  if (least < 0) return null
  if (least <= Math.max(SKEW_LINES.backMs, gapMs + STEADY_MS)) return 0
  return Math.max(...looked) - least <= STEADY_MS ? -least : null
}

/** The lags to go on with. */
export const nextLags = (lagsMs: readonly number[], lagMs: number): number[] =>
  [...lagsMs, lagMs].slice(-LOOKED_AT)

/** How much it matters; `null` while it is right, `undefined` in between: what was open stays so. */
export function skewSeverity(skewMs: number): 'critical' | 'warning' | null | undefined {
  const off = Math.abs(skewMs)
  if (off > SKEW_LINES.criticalMs) return 'critical'
  if (off > SKEW_LINES.warningMs) return 'warning'
  return off <= SKEW_LINES.backMs ? null : undefined
}
