/** In any minute one step of a call-out sends this many messages at most, if its form says nothing else. */
export const USUAL_MOST_A_MINUTE = 5

const MINUTE_MS = 60_000

export type Going =
  | { readonly how: 'alone' }
  /** All that wait go in one. */
  | { readonly how: 'together' }
  | { readonly how: 'later'; readonly atMs: number }

/**
 * How a message goes out while others of the same step to the same people wait beside it. In any minute at most `most` go
 * out; each of them alone while that is enough for all, else what waits goes in one.
 * @param sentMs when the last ones went out, the newest first; of a letter with many in it once
 * @param waiting how many are due now, this one among them
 */
export function howToGo(nowMs: number, sentMs: readonly number[], waiting: number, most: number): Going {
  const recent = sentMs.filter((atMs) => atMs > nowMs - MINUTE_MS)
  const room = most - recent.length
  if (room <= 0) return { how: 'later', atMs: recent[most - 1]! + MINUTE_MS }
  return { how: waiting <= room ? 'alone' : 'together' }
}

const AGAIN_MS = 2000
const LONGEST_AGAIN_MS = 5 * MINUTE_MS

/**
 * The pause before a letter of many is tried again: each twice as long as the one before, and never long. Every new message
 * tries all that wait beside it, so the count of tries says little about how long the far side has been away.
 */
export const againMs = (tries: number): number =>
  Math.min(AGAIN_MS * 2 ** Math.min(tries, 20), LONGEST_AGAIN_MS)
