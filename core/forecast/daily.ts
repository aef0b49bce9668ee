import { DAY_MS } from './face.ts'
import type { Samples } from './clean.ts'
import { medianOf, quantileOf, sorted, spreadOf } from './numbers.ts'

/** A history to be fitted: times in days before now (negative), values that rise towards the line. */
export interface History {
  readonly atDays: Float64Array
  readonly values: Float64Array
}

/** So far back a history is looked at. */
const MOST_DAYS = 1100

/** The worst value of each day, counted back from now, at the time at which it was. */
export function worstOfDays({ atMs, values }: Samples, nowMs: number): History {
  const worst = new Map<number, { at: number; value: number }>()
  for (let index = 0; index < values.length; index += 1) {
    const day = Math.floor((nowMs - atMs[index]!) / DAY_MS)
    if (day > MOST_DAYS) continue
    const known = worst.get(day)
    if (known === undefined || values[index]! >= known.value)
      worst.set(day, { at: (atMs[index]! - nowMs) / DAY_MS, value: values[index]! })
  }
  const rows = [...worst.values()].sort((a, b) => a.at - b.at)
  return {
    atDays: Float64Array.from(rows, ({ at }) => at),
    values: Float64Array.from(rows, ({ value }) => value),
  }
}

/**
 * A history that goes up by whole stairs (percent of a drive that is used up), reduced to the instants at which a stair was
 * reached: what lies between two says nothing. At the end stands what may be expected of the stair that is under way.
 */
export function withoutStairs(history: History): History {
  const { atDays, values } = history
  const changes = [...values.keys()].slice(1).filter((index) => values[index] !== values[index - 1])
  const stair = stairOf(values, changes)
  if (stair === null || changes.length < 3) return history
  const rows = changes.map((index) => ({
    at: (atDays[index - 1]! + atDays[index]!) / 2,
    value: values[index]!,
  }))
  const first = rows[Math.max(0, rows.length - 6)]!
  const last = rows.at(-1)!
  const pace = (last.value - first.value) / Math.max(1e-9, last.at - first.at)
  const end = atDays.at(-1)!
  const under = Math.min(0.9 * stair, Math.max(0, pace) * (end - last.at))
  if (end - last.at > 0.5) rows.push({ at: end, value: last.value + under })
  return {
    atDays: Float64Array.from(rows, ({ at }) => at),
    values: Float64Array.from(rows, ({ value }) => value),
  }
}

/** What is told in whole units is told in units smaller than this share of all; a larger step is one that was made. */
const COARSEST = 0.04

/** The height of a stair; `null` where the values do not go up by stairs. */
function stairOf(values: Float64Array, changes: readonly number[]): number | null {
  if (values.length < 12 || changes.length === 0 || changes.length > 0.6 * values.length) return null
  const heights = changes.map((index) => values[index]! - values[index - 1]!)
  if (heights.filter((height) => height > 0).length < 0.97 * heights.length) return null
  const least = Math.min(...heights.filter((height) => height > 0))
  const isWhole = heights.every((height) => Math.abs(height / least - Math.round(height / least)) < 0.02)
  return isWhole && least <= COARSEST && medianOf(heights) < 1.5 * least ? least : null
}

/** What each day of the week adds, by days from now modulo seven; `null` where it does not clearly help. */
export function weekOf({ atDays, values }: History): Float64Array | null {
  const count = values.length
  if (count < 35 || atDays.at(-1)! - atDays[0]! < 35) return null
  const rest = new Float64Array(count)
  for (let index = 3; index < count - 3; index += 1)
    rest[index] = values[index]! - medianOf(values.subarray(index - 3, index + 4))
  const inner = [...rest.keys()].slice(3, -3).filter((index) => atDays[index + 3]! - atDays[index - 3]! < 7.5)
  if (inner.length < 28) return null
  const week = Float64Array.from({ length: 7 }, (_, day) => {
    const own = inner.filter((index) => dayOfWeek(atDays[index]!) === day)
    return own.length < 3 ? NaN : medianOf(own.map((index) => rest[index]!))
  })
  if (week.some(Number.isNaN)) return null
  const before = spreadLike(inner.map((index) => rest[index]!))
  const after = spreadLike(inner.map((index) => rest[index]! - week[dayOfWeek(atDays[index]!)]!))
  const size = Math.max(...week) - Math.min(...week)
  return after < 0.6 * before && size > 1.5 * after ? week.map((each) => each - medianOf(week)) : null
}

/** Mean distance from nothing, without the most distant twentieth. */
function spreadLike(values: readonly number[]): number {
  const sizes = sorted(values.map(Math.abs))
  const most = Math.ceil(sizes.length * 0.95)
  let sum = 0
  for (let index = 0; index < most; index += 1) sum += sizes[index]!
  return sum / most
}

/** A day of the week, from 0 to 6, counted from that of now. */
export const dayOfWeek = (atDays: number): number => ((Math.ceil(atDays) % 7) + 7) % 7

export const withoutWeek = ({ atDays, values }: History, week: Float64Array): History => ({
  atDays,
  values: values.map((value, index) => value - week[dayOfWeek(atDays[index]!)]!),
})

/** A saw: what fills up, is emptied, and fills up again. */
export interface Teeth {
  /** The highest of each tooth: what is to be fitted. */
  readonly peaks: History
  /** Days from one emptying to the next. */
  readonly periods: Float64Array
  /** From the lowest to the highest of a tooth. */
  readonly size: number
  /** When it was last emptied, in days. */
  readonly lastDrop: number
}

/** The teeth of a history, where there are four at least and they are what it mostly does; else `null`. */
export function teethOf({ atDays, values }: History): Teeth | null {
  const count = values.length
  if (count < 20) return null
  const steps = Float64Array.from({ length: count - 1 }, (_, index) => values[index + 1]! - values[index]!)
  const usual = spreadOf(steps)
  const range = quantileOf(sorted(values), 0.95) - quantileOf(sorted(values), 0.05)
  const least = Math.max(3 * usual, 0.2 * range)
  const drops = dropsOf(values, least)
  if (drops.length < 4) return null
  const span = atDays.at(-1)! - atDays[0]!
  const at = drops.map(({ to }) => atDays[to]!)
  if (at.at(-1)! - at[0]! < 0.4 * span || at.at(-1)! < -0.35 * span) return null
  const sizes = drops.map(({ size }) => size)
  if (quantileOf(sorted(sizes), 0.2) < 0.35 * medianOf(sizes)) return null
  if (!isRefilled(values, drops)) return null
  const periods = Float64Array.from(at.slice(1), (each, index) => each - at[index]!)
  return {
    peaks: {
      atDays: Float64Array.from(drops, ({ from }) => atDays[from]!),
      values: Float64Array.from(drops, ({ from }) => values[from]!),
    },
    periods,
    size: medianOf(sizes),
    lastDrop: at.at(-1)!,
  }
}

interface Drop {
  readonly from: number
  readonly to: number
  readonly size: number
}

/** Falls within two days from a peak to the lowest after it. */
function dropsOf(values: Float64Array, least: number): Drop[] {
  const drops: Drop[] = []
  for (let index = 1; index < values.length; index += 1) {
    if (values[index - 1]! - values[index]! < 0.5 * least) continue
    let from = index - 1
    if (from > 0 && values[from - 1]! > values[from]!) from -= 1
    let to = index
    while (to + 1 < values.length && values[to + 1]! < values[to]! && to - from < 3) to += 1
    const size = values[from]! - values[to]!
    if (size >= least) drops.push({ from, to, size })
    index = to
  }
  return drops
}

/** Between two drops it fills up again, by most of what was lost. */
function isRefilled(values: Float64Array, drops: readonly Drop[]): boolean {
  const filled = drops
    .slice(1)
    .filter(({ from }, index) => values[from]! - values[drops[index]!.to]! > 0.6 * drops[index]!.size)
  return filled.length >= 0.75 * (drops.length - 1)
}
