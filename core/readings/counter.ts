/** A counter as it was read. */
export interface Count {
  /** By a clock that does not jump: ours. */
  readonly atMs: number
  readonly value: bigint
  readonly bits: 32 | 64
  /** For how long it has been counting, by the far side; `null` where that is not said. */
  readonly countingMs: number | null
}

/** Clocks of two machines drift, and answers take their time. */
const SLACK_MS = 5000
const SLACK_RATIO = 0.02
/** `sysUpTime` is in hundredths of a second in 32 bits (RFC 3418): it wraps after 497 days. */
const UPTIME_WRAP_MS = 2 ** 32 * 10

/**
 * Growth a second between two readings of a counter, or `null` where it cannot be told: it was started anew, time did
 * not go on, or it went back without a word about why.
 *
 * A counter of 32 bits that is smaller than before has wrapped once if it was not started anew (RFC 2578 §7.1.6); a
 * Counter64 does not wrap in a lifetime, so that a smaller one was started anew.
 * @param most above which a growth is not believed to be a wrap, a second; as a port's speed
 */
export function growthRate(before: Count, after: Count, most = Infinity): number | null {
  const elapsedMs = after.atMs - before.atMs
  if (!(elapsedMs > 0) || before.bits !== after.bits) return null
  const isAnew = startedAnew(before, after, elapsedMs)
  if (isAnew === true) return null
  if (after.value >= before.value) return perSecond(after.value - before.value, elapsedMs)
  if (after.bits === 64) return null
  const wrapped = perSecond(after.value + 2n ** 32n - before.value, elapsedMs)
  // Without a word about a restart, half the range or more is more likely one than a wrap.
  const isBelievable =
    isAnew === false ? wrapped <= most : wrapped <= most && after.value + 2n ** 32n - before.value < 2n ** 31n
  return isBelievable ? wrapped : null
}

const perSecond = (growth: bigint, elapsedMs: number): number => Number(growth) / (elapsedMs / 1000)

/** `null` where neither side says. */
function startedAnew(before: Count, after: Count, elapsedMs: number): boolean | null {
  if (before.countingMs === null || after.countingMs === null) return null
  const slack = SLACK_MS + SLACK_RATIO * elapsedMs
  const expected = before.countingMs + elapsedMs
  if (after.countingMs >= expected - slack) return false
  const wraps =
    expected >= UPTIME_WRAP_MS && Math.abs(after.countingMs - (expected - UPTIME_WRAP_MS)) <= slack
  return !wraps
}

/** How many values were seen so far, and what they come to. */
export interface Seen {
  readonly atMs: number
  readonly count: number
  readonly sum: number
}

/**
 * The mean of what was seen between two moments; `null` when that is nothing, or the later one is not later. A count
 * that is smaller than before began anew, and is what was seen since.
 */
export function meanBetween(before: Seen, now: Seen): number | null {
  if (now.atMs <= before.atMs) return null
  const isAnew = now.count < before.count
  const count = isAnew ? now.count : now.count - before.count
  const mean = (isAnew ? now.sum : now.sum - before.sum) / count
  return count > 0 && Number.isFinite(mean) ? mean : null
}
