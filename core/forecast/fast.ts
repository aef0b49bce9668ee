import type { Samples } from './clean.ts'
import type { History } from './daily.ts'
import { DAY_MS, type FiniteKind, type ForecastInput, HOUR_MS } from './face.ts'
import { medianOf, quantileOf, sorted } from './numbers.ts'
import type { Outlook } from './paths.ts'
import { fitModels, type Model } from './regress.ts'

const LOOK_DAYS = 10
/** What can fill within days. Demand, warmth and runtimes go up and down with the hours of a day. */
const FILLS: readonly FiniteKind[] = ['space', 'inodes', 'written']
const LEAST_HOURS = 20
const WALKS = [0, 0.05, 0.3]

/**
 * What the last ten days of hours say of growth that days are too coarse for: a quiet store that fills within days. Only what
 * has gone on for a day, stands out far from the noise, and has brought the thing to where it never was.
 */
export function fastOutlook(
  samples: Samples,
  daily: History,
  { kind, nowMs }: ForecastInput,
): Outlook | null {
  if (!FILLS.includes(kind)) return null
  const history = hoursOf(samples, nowMs)
  const count = history.values.length
  if (count < LEAST_HOURS || history.atDays.at(-1)! < -1.5) return null
  if (!isNewHigh(history, daily)) return null
  const level = withoutDay(history)
  const model = fitModels(level, { walks: WALKS, freshDays: 0.75 })[0]!
  const growth = growthOf(model)
  if (growth === null || growth.sinceDays < 0.9 || growth.perDay <= 0) return null
  const noise = Math.sqrt(model.variance)
  const grown = growth.perDay * growth.sinceDays
  if (grown < 8 * noise || grown < 1.5 * wanderOf(daily, growth.sinceDays)) return null
  return {
    models: [{ ...model, jumps: null }],
    endDays: level.atDays.at(-1)!,
    spanDays: level.atDays.at(-1)! - level.atDays[0]!,
    week: null,
    teeth: null,
  }
}

/** The highest of each hour, where there are hours. */
function hoursOf({ atMs, values }: Samples, nowMs: number): History {
  const highest = new Map<number, { at: number; value: number }>()
  for (let index = values.length - 1; index >= 0; index -= 1) {
    const age = nowMs - atMs[index]!
    if (age > LOOK_DAYS * DAY_MS) break
    const hour = Math.floor(age / HOUR_MS)
    const known = highest.get(hour)
    if (known === undefined || values[index]! > known.value)
      highest.set(hour, { at: -age / DAY_MS, value: values[index]! })
  }
  const rows = [...highest.values()].sort((a, b) => a.at - b.at)
  return {
    atDays: Float64Array.from(rows, ({ at }) => at),
    values: Float64Array.from(rows, ({ value }) => value),
  }
}

/** The last hours lie above all that was in the days before these ten, and above most of these. */
function isNewHigh({ values }: History, daily: History): boolean {
  const last = medianOf(values.subarray(-3))
  const before = daily.values.subarray(0, -1)
  return before.every((value) => value <= last) && last >= quantileOf(sorted(values), 0.9)
}

/** Without what each hour of the day adds, where that is clear from four days at least. */
function withoutDay(history: History): History {
  const { atDays, values } = history
  if (-atDays[0]! < 4) return history
  const hourOf = (at: number): number => ((Math.floor(at * 24) % 24) + 24) % 24
  const means = new Map<number, number>()
  const dayOf = (at: number): number => Math.floor(at)
  for (const day of new Set(Array.from(atDays, dayOf)))
    means.set(day, medianOf([...values].filter((_, index) => dayOf(atDays[index]!) === day)))
  const rest = values.map((value, index) => value - means.get(dayOf(atDays[index]!))!)
  const profile = Float64Array.from({ length: 24 }, (_, hour) =>
    medianOf([...rest].filter((_, index) => hourOf(atDays[index]!) === hour)),
  ).map((each) => (Number.isNaN(each) ? 0 : each))
  const size = (some: ArrayLike<number>): number => medianOf(Array.from(some, Math.abs))
  const flat = rest.map((value, index) => value - profile[hourOf(atDays[index]!)]!)
  if (size(flat) > 0.5 * size(rest)) return history
  return { atDays, values: values.map((value, index) => value - profile[hourOf(atDays[index]!)]!) }
}

interface Growth {
  readonly perDay: number
  readonly sinceDays: number
}

/** The rate of now, and for how long it has been so. */
function growthOf(model: Model): Growth | null {
  const rising = model.terms.flatMap(({ kind, at, valueAt }, index) =>
    kind === 'trend' || kind === 'rate' || kind === 'shape'
      ? [{ kind, at, perDay: model.beta[index]! * (valueAt(0) - valueAt(-0.25)) * 4 }]
      : [],
  )
  if (rising.length === 0) return null
  const latest = Math.max(-LOOK_DAYS, ...rising.flatMap(({ kind, at }) => (kind === 'rate' ? [at] : [])))
  return { perDay: rising.reduce((sum, each) => sum + each.perDay, 0), sinceDays: -latest }
}

/** By how much it went up within so many days before, now and then. */
function wanderOf({ atDays, values }: History, days: number): number {
  const ups: number[] = []
  for (let from = 0; from < values.length; from += 1) {
    if (atDays[from]! > -LOOK_DAYS) break
    let most = 0
    for (let to = from + 1; to < values.length && atDays[to]! - atDays[from]! <= days + 0.5; to += 1)
      most = Math.max(most, values[to]! - values[from]!)
    ups.push(most)
  }
  return ups.length === 0 ? 0 : quantileOf(sorted(ups), 0.97)
}
