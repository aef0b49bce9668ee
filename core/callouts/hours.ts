import { instantOf, wallClock } from '../units/index.ts'
import type { Hours } from './callOut.ts'

const MINUTE_MS = 60_000
const DAY_MS = 86_400_000

/** 0 is Monday: 1 January 1970 was a Thursday. */
const weekdayOf = (wallMs: number): number => (((Math.floor(wallMs / DAY_MS) + 3) % 7) + 7) % 7

/**
 * The first instant at or after `atMs` that lies within the hours. Where clocks go forward, a beginning that is left
 * out comes as much later. `null` when there are no such hours.
 */
export function nextWithin(hours: Hours | null, atMs: number, timeZone: string): number | null {
  if (hours === null) return atMs
  if (hours.days.length === 0) return null
  const today = Math.floor(wallClock(atMs, timeZone) / DAY_MS) * DAY_MS
  // Yesterday's span may go on past midnight; a week and a day later every weekday has come.
  for (let day = -1; day <= 8; day += 1) {
    const midnight = today + day * DAY_MS
    if (!hours.days.includes(weekdayOf(midnight))) continue
    const { fromMs, toMs } = spanOf(hours, midnight, timeZone)
    if (atMs < toMs) return Math.max(atMs, fromMs)
  }
  return null
}

export const isWithin = (hours: Hours | null, atMs: number, timeZone: string): boolean =>
  nextWithin(hours, atMs, timeZone) === atMs

function spanOf({ fromMinute, toMinute }: Hours, midnight: number, timeZone: string) {
  const lasts = toMinute > fromMinute ? toMinute - fromMinute : toMinute + 1440 - fromMinute
  return {
    fromMs: instantOf(midnight + fromMinute * MINUTE_MS, timeZone),
    toMs: instantOf(midnight + (fromMinute + lasts) * MINUTE_MS, timeZone),
  }
}
