import { instantOf, wallClock } from '../units/index.ts'
import type { QuietTime } from './quiet.ts'

/** How a quiet may come again: the rules that its form offers, as RFC 5545 §3.3.10 writes them, and no others. */
export const REPEATS = {
  'FREQ=DAILY': 'every day',
  'FREQ=DAILY;BYDAY=MO,TU,WE,TH,FR': 'every workday',
  'FREQ=WEEKLY': 'every week',
  'FREQ=WEEKLY;INTERVAL=2': 'every other week',
  'FREQ=MONTHLY': 'every month',
  'FREQ=MONTHLY;BYDAY=1SU': 'every first Sunday',
} as const
export type Repeats = keyof typeof REPEATS

export const isRepeats = (rule: string): rule is Repeats => Object.hasOwn(REPEATS, rule)

const DAY_MS = 86_400_000
const WEEK_MS = 7 * DAY_MS
/** Every day of a month comes again within so many months: the 29th of February apart, after a year without one. */
const MOST_MONTHS = 14

/**
 * When a quiet holds that comes again: the time it is in, or the next one. Hours are those of the clocks of a zone, in
 * summer and in winter. A month without the day of the first time is passed over.
 * @param first its first time, at which it need not fit the rule; then the rule's first time after it counts
 */
export function timeOfRepeating(
  first: { readonly fromMs: number; readonly toMs: number },
  rule: Repeats,
  nowMs: number,
  timeZone: string,
): QuietTime {
  const lengthMs = first.toMs - first.fromMs
  const start = nextStart(wallClock(first.fromMs, timeZone), rule, wallClock(nowMs - lengthMs, timeZone))
  const fromMs = instantOf(start, timeZone)
  return { fromMs, toMs: fromMs + lengthMs }
}

/** The earliest start after an instant. All are what clocks show, as if it were UTC; ms. */
function nextStart(first: number, rule: Repeats, after: number): number {
  switch (rule) {
    case 'FREQ=DAILY':
      return stepped(first, DAY_MS, after)
    case 'FREQ=WEEKLY':
      return stepped(first, WEEK_MS, after)
    case 'FREQ=WEEKLY;INTERVAL=2':
      return stepped(first, 2 * WEEK_MS, after)
    case 'FREQ=DAILY;BYDAY=MO,TU,WE,TH,FR': {
      let start = stepped(first, DAY_MS, after)
      while ([0, 6].includes(new Date(start).getUTCDay())) start += DAY_MS
      return start
    }
    case 'FREQ=MONTHLY':
      return monthly(first, after, (year, month, firstDay) => Date.UTC(year, month, firstDay))
    case 'FREQ=MONTHLY;BYDAY=1SU':
      return monthly(first, after, (year, month) => {
        const weekday = new Date(Date.UTC(year, month, 1)).getUTCDay()
        return Date.UTC(year, month, 1 + ((7 - weekday) % 7))
      })
    default:
      return rule satisfies never
  }
}

const stepped = (first: number, step: number, after: number): number =>
  first > after ? first : first + (Math.floor((after - first) / step) + 1) * step

/** @param dayOf a month, at midnight; one that lies in another month is not there */
function monthly(
  first: number,
  after: number,
  dayOf: (year: number, month: number, firstDay: number) => number,
): number {
  const from = new Date(Math.max(first, after))
  const firstDay = new Date(first).getUTCDate()
  const clock = first % DAY_MS
  for (let ahead = 0; ahead <= MOST_MONTHS; ahead += 1) {
    const month = new Date(Date.UTC(from.getUTCFullYear(), from.getUTCMonth() + ahead, 1))
    const day = dayOf(month.getUTCFullYear(), month.getUTCMonth(), firstDay)
    const start = day + clock
    if (new Date(day).getUTCMonth() === month.getUTCMonth() && start >= first && start > after) return start
  }
  throw new RangeError(`no month has a day ${firstDay}`)
}
