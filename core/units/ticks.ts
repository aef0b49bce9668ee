import { formatClock, formatDay } from './time.ts'
import { instantOf, wallClock } from './zone.ts'

const MINUTE = 60_000
const HOUR = 60 * MINUTE
const DAY = 24 * HOUR
/** Lengths between two ticks that divide a day, and then whole days. */
const STEPS = [
  ...[1, 2, 5, 10, 15, 30].map((minutes) => minutes * MINUTE),
  ...[1, 2, 3, 6, 12].map((hours) => hours * HOUR),
  ...[1, 2, 7, 14].map((days) => days * DAY),
]
const MONTHS = [1, 2, 3, 6, 12, 24, 60]
const MONTH = 30.4 * DAY
/** The first Monday of 1970: weeks begin there. */
const MONDAY = 4 * DAY

/**
 * Where the time axis of a chart is labelled: at round times of the clocks of a zone, as the first of a month, Mondays,
 * midnights or full hours.
 * @param most so many at most, about; one more where both ends are round
 * @returns instants within the span, ascending; ms
 */
export function timeTicks(fromMs: number, toMs: number, timeZone: string, most: number): number[] {
  const span = toMs - fromMs
  const step = STEPS.find((each) => span / each <= most)
  const [from, to] = [wallClock(fromMs, timeZone), wallClock(toMs, timeZone)]
  const walls = step === undefined ? monthWalls(from, to, span / most) : evenWalls(from, to, step)
  // An hour that is left out or comes twice brings two walls to one instant, or out of order.
  const instants = new Set(walls.map((wall) => instantOf(wall, timeZone)))
  return [...instants].filter((atMs) => atMs >= fromMs && atMs <= toMs).sort((a, b) => a - b)
}

/** So long a span is labelled by days alone. */
const MANY_DAYS = 4 * DAY

/** A label of a time axis: the clock, and a day's name where one begins; days alone where the span is many days long. */
export function formatTick(
  atMs: number,
  span: { readonly fromMs: number; readonly toMs: number },
  timeZone: string,
): string {
  const clock = span.toMs - span.fromMs > MANY_DAYS ? null : formatClock(atMs, timeZone)
  return clock === null || clock === '00:00' ? formatDay(atMs, timeZone) : clock
}

/** An hour more on each side: what comes twice when clocks go back is within the span at one of its times. */
function evenWalls(from: number, to: number, step: number): number[] {
  const origin = step % (7 * DAY) === 0 ? MONDAY : 0
  const first = Math.ceil((from - HOUR - origin) / step)
  const last = Math.floor((to + HOUR - origin) / step)
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, index) => origin + (first + index) * step)
}

function monthWalls(from: number, to: number, least: number): number[] {
  const months = MONTHS.find((each) => each * MONTH >= least) ?? MONTHS.at(-1)!
  const of = (wall: number): number =>
    (new Date(wall).getUTCFullYear() - 1970) * 12 + new Date(wall).getUTCMonth()
  const first = Math.ceil(of(from) / months)
  const last = Math.floor(of(to) / months)
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, index) =>
    Date.UTC(1970, (first + index) * months),
  )
}
