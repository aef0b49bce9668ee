import { instantOf, wallClock } from '../units/index.ts'

/** What the same window of an earlier day, week or year is laid under. */
export const EARLIER = { day: 'a day earlier', week: 'a week earlier', year: 'a year earlier' } as const
export type Earlier = keyof typeof EARLIER

export const isEarlier = (text: string | null): text is Earlier =>
  text !== null && Object.hasOwn(EARLIER, text)

/**
 * By how much the same window was earlier, ms: the clocks of the site show the same time at its beginning, whatever
 * summer time has done between.
 */
export function earlierBy(fromMs: number, by: Earlier, timeZone: string): number {
  const wall = wallClock(fromMs, timeZone)
  const at = new Date(wall)
  if (by === 'year') at.setUTCFullYear(at.getUTCFullYear() - 1)
  else at.setUTCDate(at.getUTCDate() - (by === 'day' ? 1 : 7))
  return fromMs - instantOf(at.getTime(), timeZone)
}
