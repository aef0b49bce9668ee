import { HOUR_MS, type Hours } from '../readings/index.ts'
import { wallClock } from '../units/index.ts'

export const WEEK_HOURS = 168
/** Less than this of readings says nothing of a week. */
export const LEAST_HOURS = WEEK_HOURS
/** From Thursday, 1 January 1970, to the Monday after it. */
const TO_MONDAY_HOURS = 96

/** One series of those that are to be low together, hour by hour. */
export interface Busy {
  readonly name: string
  /**
   * What it is measured against: levels are shares of the highest 99th percentile among those of one sort, so that what idles
   * all the time does not count as busy.
   */
  readonly sort: string
  readonly hours: Hours
}

/** How busy all are together in an hour of the week, over the weeks that were seen: 0 idle, 1 as busy as ever. */
export interface HourOfWeek {
  readonly median: number
  readonly low: number
  readonly high: number
  /** In so many weeks it was heard. */
  readonly weeks: number
}

/** Whether a window is looked for that is the same every day, or one of the week. */
export type Every = 'day' | 'week'
const PERIODS: Readonly<Record<Every, number>> = { day: 24, week: WEEK_HOURS }

export interface QuietWindow {
  /** Its first hour, from Monday 00:00; of a window of every day from midnight. */
  readonly hour: number
  /** What to expect: the median over its times of the mean joint level within it. */
  readonly expected: number
  /** The worst time. */
  readonly worst: number
  /** So many times all of it was heard: days, or weeks. */
  readonly times: number
  /** Of the member that is busiest within it, what share of its own peak it has on average. */
  readonly busiest: { readonly name: string; readonly level: number }
  readonly clashes: readonly string[]
}

/** A time that people keep for something, week by week. */
export interface KeptTime {
  readonly name: string
  /** From Monday 00:00. */
  readonly fromMinute: number
  readonly minutes: number
}

export interface QuietHours {
  readonly hours: readonly (HourOfWeek | null)[]
  readonly windows: readonly QuietWindow[]
  /** Whole weeks of which anything was heard. */
  readonly weeks: number
  /** Hours in which all members were heard. */
  readonly heard: number
  /** Why there are no windows; `null` when there are. */
  readonly problem: string | null
}

/** An hour of the week of an instant, counted from Monday 00:00 as the clocks of the zone show it; and the week it is in. */
export function hourOfWeek(atMs: number, timeZone: string): { readonly week: number; readonly hour: number } {
  const hours = Math.floor(wallClock(atMs, timeZone) / HOUR_MS) - TO_MONDAY_HOURS
  const hour = ((hours % WEEK_HOURS) + WEEK_HOURS) % WEEK_HOURS
  return { week: Math.floor(hours / WEEK_HOURS), hour }
}

/**
 * When several things are low together. The joint level of an hour is that of its busiest member, each measured against
 * the 99th percentile of the busiest of its sort: what is wanted is a time at which none of them is busy. Windows are ranked by the level that nine of
 * ten times stay under, and do not overlap.
 * @param lengthHours 1 to 24
 */
export function quietHours(
  members: readonly Busy[],
  {
    lengthHours,
    timeZone,
    every = 'week',
    kept = [],
    most = 3,
  }: {
    readonly lengthHours: number
    readonly every?: Every
    readonly timeZone: string
    readonly kept?: readonly KeptTime[]
    readonly most?: number
  },
): QuietHours {
  const { weeks, joint, byMember } = jointLevels(members, timeZone)
  const heard = joint.reduce((count, value) => count + (Number.isNaN(value) ? 0 : 1), 0)
  const hours = Array.from({ length: WEEK_HOURS }, (_, hour) => hourOver(joint, weeks, hour))
  const problem = problemOf(members, heard)
  if (problem !== null) return { hours, windows: [], weeks, heard, problem }
  const period = PERIODS[every]
  const all = Array.from({ length: period }, (_, hour) =>
    windowAt(joint, byMember, { hour, period, lengthHours, members, kept }),
  ).flatMap((each) => each ?? [])
  const ranked = all.sort((a, b) => a.rank - b.rank || a.window.hour - b.window.hour)
  const windows: QuietWindow[] = []
  for (const { window } of ranked) {
    if (windows.length === most) break
    if (windows.every((other) => apart(other.hour, window.hour, period) >= lengthHours)) windows.push(window)
  }
  return {
    hours,
    windows,
    weeks,
    heard,
    problem: windows.length === 0 ? 'No window was heard as a whole.' : null,
  }
}

/** Hours between two hours of a day or a week, the shorter way round. */
const apart = (a: number, b: number, period: number): number =>
  Math.min(Math.abs(a - b), period - Math.abs(a - b))

function problemOf(members: readonly Busy[], heard: number): string | null {
  if (members.length === 0) return 'Nothing is picked.'
  const silent = members.filter(({ hours }) => hours.times.length === 0)
  if (silent.length > 0)
    return `Nothing was heard of ${silent.length === members.length ? 'any of them' : silent[0]!.name} in this span.`
  if (heard < LEAST_HOURS)
    return `Together they were heard for ${heard} hours only; a week of ${LEAST_HOURS} hours is needed to tell the hours of a week apart.`
  return null
}

interface Levels {
  /** Week after week 168 hours, NaN where one of the members was not heard. */
  readonly joint: Float64Array
  readonly byMember: readonly Float64Array[]
  readonly weeks: number
}

function jointLevels(members: readonly Busy[], timeZone: string): Levels {
  const places = new Map<number, number>()
  const place = (atMs: number): number => {
    const known = places.get(atMs)
    if (known !== undefined) return known
    const { week, hour } = hourOfWeek(atMs, timeZone)
    const made = week * WEEK_HOURS + hour
    places.set(atMs, made)
    return made
  }
  let [first, last] = [Infinity, -Infinity]
  for (const { hours } of members)
    if (hours.times.length > 0) {
      first = Math.min(first, Math.floor(place(hours.times[0]!) / WEEK_HOURS))
      last = Math.max(last, Math.floor(place(hours.times.at(-1)!) / WEEK_HOURS))
    }
  const weeks = first > last ? 0 : last - first + 1
  const means = members.map(({ hours }) => hours.sum.map((sum, index) => sum / hours.count[index]!))
  const peaks = new Map<string, number>()
  members.forEach(({ sort }, index) => {
    const peak = atRatio(means[index]!.slice().sort(), 0.99)
    if (peak > (peaks.get(sort) ?? 0)) peaks.set(sort, peak)
  })
  const byMember = members.map(({ hours, sort }, index) =>
    levelsOf(hours.times, means[index]!, { weeks, first, place, peak: peaks.get(sort) ?? 1 }),
  )
  const joint = new Float64Array(weeks * WEEK_HOURS).fill(NaN)
  for (let index = 0; index < joint.length; index += 1) {
    let most = -Infinity
    for (const levels of byMember) {
      const level = levels[index]!
      // Of one that was not heard nobody knows that it was quiet.
      most = Number.isNaN(level) ? NaN : Math.max(most, level)
      if (Number.isNaN(most)) break
    }
    joint[index] = most
  }
  return { joint, byMember, weeks }
}

function levelsOf(
  times: Float64Array,
  means: Float64Array,
  {
    weeks,
    first,
    place,
    peak,
  }: {
    readonly weeks: number
    readonly first: number
    readonly place: (atMs: number) => number
    readonly peak: number
  },
): Float64Array {
  const levels = new Float64Array(weeks * WEEK_HOURS).fill(NaN)
  means.forEach((mean, index) => {
    const at = place(times[index]!) - first * WEEK_HOURS
    const level = Math.max(0, mean / peak)
    // The hour that comes twice when clocks go back is as busy as the busier of the two.
    levels[at] = Number.isNaN(levels[at]!) ? level : Math.max(levels[at]!, level)
  })
  return levels
}

function atRatio(sorted: Float64Array, ratio: number): number {
  if (sorted.length === 0) return NaN
  const at = ratio * (sorted.length - 1)
  const low = Math.floor(at)
  const high = Math.min(sorted.length - 1, low + 1)
  return sorted[low]! + (sorted[high]! - sorted[low]!) * (at - low)
}

function hourOver(joint: Float64Array, weeks: number, hour: number): HourOfWeek | null {
  const own = Float64Array.from({ length: weeks }, (_, week) => joint[week * WEEK_HOURS + hour]!)
    .filter((value) => !Number.isNaN(value))
    .sort()
  if (own.length === 0) return null
  return { median: atRatio(own, 0.5), low: atRatio(own, 0.1), high: atRatio(own, 0.9), weeks: own.length }
}

function windowAt(
  joint: Float64Array,
  byMember: readonly Float64Array[],
  {
    hour,
    period,
    lengthHours,
    members,
    kept,
  }: {
    readonly hour: number
    readonly period: number
    readonly lengthHours: number
    readonly members: readonly Busy[]
    readonly kept: readonly KeptTime[]
  },
): { readonly window: QuietWindow; readonly rank: number } | null {
  const means: number[] = []
  const sums = members.map(() => 0)
  for (let from = hour; from < joint.length; from += period) {
    let sum = 0
    // A window that begins late goes on into the next day, or week.
    for (let at = from; at < from + lengthHours; at += 1) sum += at < joint.length ? joint[at]! : NaN
    if (Number.isNaN(sum)) continue
    means.push(sum / lengthHours)
    byMember.forEach((levels, index) => {
      for (let at = from; at < from + lengthHours; at += 1) sums[index]! += levels[at]! / lengthHours
    })
  }
  if (means.length === 0) return null
  const sorted = Float64Array.from(means).sort()
  const busiest = sums.reduce((most, sum, index) => (sum > sums[most]! ? index : most), 0)
  return {
    rank: atRatio(sorted, 0.9),
    window: {
      hour,
      expected: atRatio(sorted, 0.5),
      worst: sorted.at(-1)!,
      times: means.length,
      busiest: { name: members[busiest]!.name, level: sums[busiest]! / means.length },
      clashes: [
        ...new Set(
          kept
            .filter((each) =>
              Array.from({ length: WEEK_HOURS / period }, (_, at) => at * period).some((start) =>
                isClash(each, (start + hour) * 60, lengthHours * 60),
              ),
            )
            .map(({ name }) => name),
        ),
      ],
    },
  }
}

/** Whether two spans of the week meet; either may go on over the end of Sunday. */
function isClash({ fromMinute, minutes }: KeptTime, from: number, length: number): boolean {
  const week = WEEK_HOURS * 60
  return [-week, 0, week].some(
    (shift) => fromMinute + shift < from + length && from < fromMinute + shift + minutes,
  )
}

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']

const clock = (hour: number): string => `${String(hour % 24).padStart(2, '0')}:00`

/** “Tuesday 05:00–08:00”, “Every day 05:00–08:00”. */
export function windowWords(hour: number, lengthHours: number, every: Every = 'week'): string {
  const end = hour + lengthHours
  if (every === 'day') return `Every day ${clock(hour)}–${clock(end)}`
  const over = Math.floor(end / 24) > Math.floor(hour / 24) && end % 24 !== 0
  return `${DAYS[Math.floor(hour / 24) % 7]!} ${clock(hour)}–${over ? `${DAYS[Math.floor(end / 24) % 7]!} ` : ''}${clock(end)}`
}

/** How sure it is, by how often it was seen. */
export function sureWords(times: number, every: Every = 'week'): string {
  if (every === 'day') return times < 28 ? `seen on ${times} days: a rough picture` : `seen on ${times} days`
  if (times < 2) return 'seen once only: look again in two weeks'
  return times < 4 ? `seen in ${times} weeks: a rough picture` : `seen in ${times} weeks`
}

const percent = (share: number): string => `${Math.round(share * 100)} %`

/** What was found, in a sentence. */
export function quietSentence(
  { windows, problem }: QuietHours,
  {
    lengthHours,
    every,
    members,
  }: { readonly lengthHours: number; readonly every: Every; readonly members: number },
): string {
  if (members === 0) return 'Say what is to be low together: a processor and a network, say.'
  const [best] = windows
  if (best === undefined) return problem ?? 'No quiet window was found.'
  const clash = best.clashes.length === 0 ? '' : ` It meets ${best.clashes.join(' and ')}.`
  return `${windowWords(best.hour, lengthHours, every)} is quietest: ${percent(best.expected)} of the peak to be expected, ${percent(best.worst)} at worst, ${sureWords(best.times, every)}.${clash}`
}
