import { dayOfWeek, type Teeth } from './daily.ts'
import type { Jumps } from './jumps.ts'
import { quantilesOf } from './numbers.ts'
import { normal, uniform } from './random.ts'
import { backwards, type Model } from './regress.ts'

/** What a history may go on as. */
export interface Outlook {
  readonly models: readonly (Model & { readonly jumps: Jumps | null })[]
  /** Time of the last value, in days before now. */
  readonly endDays: number
  readonly spanDays: number
  readonly week: Float64Array | null
  readonly teeth: Teeth | null
}

export interface Paths {
  /** Of each path, for each line, the days until it is reached; infinite beyond the horizon. */
  readonly reached: readonly Float64Array[]
  /** Instants ahead, in days, and the tenth, fiftieth and ninetieth percentile of the worst value there. */
  readonly atDays: Float64Array
  readonly p10: Float64Array
  readonly p50: Float64Array
  readonly p90: Float64Array
}

const PATHS = 800
/** Where only the middle of the dates is asked for, fewer will do: it is known to an eighth of their spread. */
const FEW_PATHS = 200
/** Growth over D days is known to this share divided by the root of D. */
const GROWTH_DOUBT = 0.5

/**
 * Draws what may come: a model by its weight, its coefficients, how its growth keeps on, the walk of its level, its jumps and
 * teeth; and sees when each path first reaches each line.
 * @param growth a factor on what grows, for “what if”
 * @param datesOnly when only the crossings are asked for: the percentiles of the days stay empty, and fewer paths are drawn
 */
export function drawPaths(
  outlook: Outlook,
  lines: readonly number[],
  horizonDays: number,
  seed: number,
  { growth = 1, datesOnly = false }: { readonly growth?: number; readonly datesOnly?: boolean } = {},
): Paths {
  const next = uniform(seed)
  const draw = { next, normal: normal(next) }
  const days = Float64Array.from(shownDays(Math.max(1, Math.ceil(horizonDays))))
  const weights = weightsOf(outlook.models)
  const weekly = days.map((day, index) => weekUntil(outlook.week, days[index - 1] ?? day - 1, day))
  const courses = outlook.models.map((model) => courseOf(model, days, outlook))
  const count = datesOnly ? FEW_PATHS : PATHS
  const reached = lines.map(() => new Float64Array(count).fill(Infinity))
  const shown = datesOnly ? 0 : days.length
  // Day by day, with all paths of a day side by side.
  const values = new Float64Array(shown * count)
  const path = new Float64Array(days.length)
  for (let index = 0; index < count; index += 1) {
    const at = pick(weights, (index + 0.5) / count)
    fillPath(path, days, outlook, { model: outlook.models[at]!, course: courses[at]!, weekly }, draw, growth)
    const tooth = outlook.teeth === null ? null : toothOf(outlook.teeth, days, draw.next)
    for (let each = 0; each < lines.length; each += 1)
      reached[each]![index] =
        tooth === null
          ? firstReach(path, days, lines[each]!)
          : firstPeak(path, days, lines[each]!, tooth, outlook.teeth!)
    for (let each = 0; each < shown; each += 1)
      values[each * count + index] = path[each]! - (tooth === null ? 0 : tooth.below[each]!)
  }
  for (const each of reached) each.sort()
  const [p10, p50, p90] = [new Float64Array(shown), new Float64Array(shown), new Float64Array(shown)]
  for (let day = 0; day < shown; day += 1) {
    const [low, middle, high] = quantilesOf(values.subarray(day * count, (day + 1) * count), BAND)
    p10[day] = low!
    p50[day] = middle!
    p90[day] = high!
  }
  return { reached, atDays: days, p10, p50, p90 }
}

const BAND = [0.1, 0.5, 0.9]

/** Every day of the first two months, then more and more seldom. */
function shownDays(count: number): number[] {
  const days: number[] = []
  for (let day = 0; day <= count; day += day < 60 ? 1 : day < 200 ? 3 : 7) days.push(day)
  if (days.at(-1) !== count) days.push(count)
  return days
}

/** The most that the week adds on the days after one instant up to another. */
function weekUntil(week: Float64Array | null, from: number, to: number): number {
  if (week === null) return 0
  let most = -Infinity
  for (let day = from + 1; day <= to; day += 1) most = Math.max(most, week[dayOfWeek(day)]!)
  return most
}

export function weightsOf(models: readonly Model[]): number[] {
  const best = Math.min(...models.map(({ criterion }) => criterion))
  const raw = models.map(({ criterion }) => Math.exp(-(criterion - best) / 2))
  const sum = raw.reduce((all, each) => all + each, 0)
  return raw.map((each) => each / sum)
}

function pick(weights: readonly number[], share: number): number {
  let sum = 0
  for (let index = 0; index < weights.length; index += 1) {
    sum += weights[index]!
    if (share <= sum) return index
  }
  return weights.length - 1
}

/** What the terms of a model add on each day ahead, beside what they add now. */
interface Course {
  /** By term: its value now, and how much more it is on each day ahead. */
  readonly now: Float64Array
  readonly ahead: readonly Float64Array[]
  readonly grows: readonly boolean[]
  /** The terms that add the same on every day ahead. */
  readonly even: readonly number[]
  /** The others that add anything on some day ahead; a step that was taken does not. */
  readonly bent: readonly number[]
  readonly sinceDays: number
  /** Of the days between an instant and the one before it. */
  readonly roots: Float64Array
}

function courseOf(model: Model, days: Float64Array, { spanDays }: Outlook): Course {
  const now = Float64Array.from(model.terms, ({ valueAt }) => valueAt(0))
  const latest = Math.max(...model.terms.map(({ kind, at }) => (kind === 'rate' ? at : -Infinity)))
  const ahead = model.terms.map(({ valueAt }, term) =>
    Float64Array.from(days, (day) => valueAt(day) - now[term]!),
  )
  return {
    now,
    ahead,
    even: model.terms.flatMap(({ kind }, term) => (kind === 'trend' || kind === 'rate' ? [term] : [])),
    bent: model.terms.flatMap(({ kind }, term) =>
      kind !== 'trend' && kind !== 'rate' && ahead[term]!.some((value) => value !== 0) ? [term] : [],
    ),
    grows: model.terms.map(({ kind }) => kind === 'trend' || kind === 'rate' || kind === 'shape'),
    // How a bend goes on is known from its last part alone.
    sinceDays: Math.max(1, Math.min(isBent(model.base) ? 0.25 * spanDays : spanDays, -latest)),
    roots: Float64Array.from(days, (day, index) => Math.sqrt(day - (days[index - 1] ?? day))),
  }
}

const isBent = (base: string): boolean => base === 'levelling' || base === 'accelerating'

interface Draw {
  readonly next: () => number
  readonly normal: () => number
}

interface Way {
  readonly model: Outlook['models'][number]
  readonly course: Course
  readonly weekly: Float64Array
}

function fillPath(
  path: Float64Array,
  days: Float64Array,
  { endDays }: Outlook,
  { model, course, weekly }: Way,
  draw: Draw,
  growth: number,
): void {
  const deviation = Math.sqrt(model.variance / chiSquareShare(model.freedom, draw.normal()))
  const errors = new Float64Array(model.terms.length)
  for (let term = 0; term < errors.length; term += 1) errors[term] = deviation * draw.normal()
  const noise = backwards(model.upper, errors)
  const doubt = Math.max(0.05, 1 + (GROWTH_DOUBT / Math.sqrt(course.sinceDays)) * draw.normal())
  let level = model.endLevel + deviation * Math.sqrt(model.endVariance) * draw.normal()
  path.fill(0)
  for (let term = 0; term < model.terms.length; term += 1)
    level += (model.beta[term]! + noise[term]!) * (course.now[term]! - model.endOfTerm[term]!)
  let daily = 0
  for (const term of course.even) daily += (model.beta[term]! + noise[term]!) * doubt * growth
  for (const term of course.bent) {
    const beta = model.beta[term]! + noise[term]!
    const factor = course.grows[term] ? beta * doubt * growth : beta
    const ahead = course.ahead[term]!
    for (let index = 1; index < path.length; index += 1) path[index]! += factor * ahead[index]!
  }
  const walk = deviation * Math.sqrt(model.walk)
  let wandered = walk * Math.sqrt(Math.max(0, -endDays)) * draw.normal()
  for (let index = 0; index < path.length; index += 1) {
    if (index > 0 && walk > 0) wandered += walk * course.roots[index]! * draw.normal()
    path[index]! += level + daily * days[index]! + wandered + weekly[index]!
  }
  if (model.jumps !== null) addJumps(path, days, model.jumps, draw, growth)
}

/** A chi-square number divided by its degrees of freedom (Wilson and Hilferty, 1931). */
function chiSquareShare(freedom: number, z: number): number {
  const part = 2 / (9 * freedom)
  return Math.max(0.05, (1 - part + z * Math.sqrt(part)) ** 3)
}

function addJumps(
  path: Float64Array,
  days: Float64Array,
  jumps: Jumps,
  { next, normal: z }: Draw,
  growth: number,
): void {
  const { sizes, intervals, last, isRegular } = jumps
  const perDay = jumps.perDay * Math.max(0.2, 1 + z() / Math.sqrt(sizes.length))
  const any = (from: readonly number[]): number => from[Math.floor(next() * from.length)]!
  const wait = (): number => (isRegular ? any(intervals) : -Math.log(1 - next()) / perDay)
  let at = isRegular ? last + wait() : wait()
  // What was due and has not come comes soon.
  if (at < 0) at = next() * Math.min(7, -last)
  let sum = 0
  for (let index = 1; index < path.length; index += 1) {
    while (at <= days[index]!) {
      sum += any(sizes) * growth
      at += Math.max(0.5, wait())
    }
    path[index]! += sum
  }
}

/** Days until a path is at the line, between two instants by their distance. */
function firstReach(path: Float64Array, days: Float64Array, line: number): number {
  if (path[0]! >= line) return 0
  for (let index = 1; index < path.length; index += 1) {
    if (path[index]! < line) continue
    const [before, after] = [path[index - 1]!, path[index]!]
    return days[index - 1]! + ((line - before) / (after - before)) * (days[index]! - days[index - 1]!)
  }
  return Infinity
}

interface Tooth {
  /** How far below its peak the saw stands on each day. */
  readonly below: Float64Array
  readonly peaks: readonly number[]
  readonly periods: readonly number[]
}

function toothOf(teeth: Teeth, days: Float64Array, next: () => number): Tooth {
  const below = new Float64Array(days.length)
  const peaks: number[] = []
  const periods: number[] = []
  let from = teeth.lastDrop
  for (let index = 0; index < days.length;) {
    const period = Math.max(0.5, teeth.periods[Math.floor(next() * teeth.periods.length)]!)
    const peak = Math.max(from + period, peaks.length === 0 ? next() : 0)
    for (; index < days.length && days[index]! <= peak; index += 1)
      below[index] = (teeth.size * (peak - days[index]!)) / period
    peaks.push(peak)
    periods.push(period)
    from = peak
  }
  return { below, peaks, periods }
}

/** The saw reaches a line on the way up to the first peak that is above it. */
function firstPeak(
  path: Float64Array,
  days: Float64Array,
  line: number,
  tooth: Tooth,
  { size }: Teeth,
): number {
  let at = 0
  for (let index = 0; index < tooth.peaks.length; index += 1) {
    const peak = tooth.peaks[index]!
    if (peak > days.at(-1)!) break
    while (at + 2 < days.length && days[at + 1]! <= peak) at += 1
    const [from, to] = [days[at]!, days[at + 1] ?? days[at]! + 1]
    const value = path[at]! + ((peak - from) / (to - from)) * ((path[at + 1] ?? path[at]!) - path[at]!)
    if (value < line) continue
    const early = tooth.periods[index]! * Math.min(1, (value - line) / size)
    return Math.max(0, peak - early)
  }
  return Infinity
}
