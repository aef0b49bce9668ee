/** Bytes a reading takes, sealed and with its summaries, as measured over a year of the usual mix (docs/scale.md). */
const BYTES_A_READING = 0.97
const DAY_S = 86_400

/** What reading so many values at an interval comes to. */
export function costOf(
  values: number,
  intervalSeconds: number,
): { readonly readingsADay: number; readonly bytesAYear: number } {
  const readingsADay = (values * DAY_S) / intervalSeconds
  return { readingsADay, bytesAYear: readingsADay * 365 * BYTES_A_READING }
}

/** The same where some values are kept less often. @param intervals of each value, in seconds */
export function costOfAll(intervals: readonly number[]): ReturnType<typeof costOf> {
  const readingsADay = intervals.reduce((sum, seconds) => sum + DAY_S / seconds, 0)
  return { readingsADay, bytesAYear: readingsADay * 365 * BYTES_A_READING }
}
