import { formatElapsed } from '../units/index.ts'

/** What is known of when a source was heard. */
export interface SourceClock {
  readonly intervalMs: number
  readonly createdAtMs: number
  readonly lastHeardAtMs: number | null
}

/** `starting`: new and still within its first intervals. `silent`: longer than expected; its gear is *no data*. */
export type Freshness = 'starting' | 'fresh' | 'silent'

/** A source is silent after `intervals` whole intervals without a reading, counted from its creation if never heard. */
export function freshness(clock: SourceClock, nowMs: number, intervals = 3): Freshness {
  const since = clock.lastHeardAtMs ?? clock.createdAtMs
  if (nowMs - since > clock.intervalMs * intervals) return 'silent'
  return clock.lastHeardAtMs === null ? 'starting' : 'fresh'
}

/** “petrel-07 controller has said nothing for 22 min”, or that it was never heard at all. */
export function silenceSentence(name: string, clock: SourceClock, nowMs: number): string {
  return clock.lastHeardAtMs === null
    ? `${name} has never been heard`
    : `${name} has said nothing for ${formatElapsed(nowMs - clock.lastHeardAtMs)}`
}

/** Whoever has mended something waits no longer than this to see it. */
const MOST_PAUSE_MS = 120_000

/** When a source that failed is tried again at the latest, but for somebody who asks before; ms. */
export const triedAgainMs = (
  failedAtMs: number,
  { intervalMs, failures }: { readonly intervalMs: number; readonly failures: number },
): number => failedAtMs + backoffMs(intervalMs, failures)

/**
 * How long to wait after so many failures in a row: the interval, doubled at each failure after the second, at most
 * ten intervals or a minute, whichever is longer, and no more than two minutes beyond its interval: gear that restarts is
 * seen again soon. The first two retries keep the interval, since a fault that mends itself should be seen to mend at once.
 */
export function backoffMs(intervalMs: number, failures: number): number {
  const longest = Math.max(intervalMs, Math.min(Math.max(intervalMs * 10, 60_000), MOST_PAUSE_MS))
  return Math.min(longest, intervalMs * 2 ** Math.max(0, failures - 2))
}
