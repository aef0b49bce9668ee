import { lowerBound } from './chunk.ts'
import type { Curve } from './curve.ts'
import { findGaps } from './drawing.ts'
import { HOUR_MS, type Hours } from './hours.ts'

/** Columns of equal width over a span of time. */
export interface Raster {
  readonly fromMs: number
  readonly stepMs: number
  readonly columns: number
}

/** What a series was in each column; NaN where nothing was heard. */
export interface Row {
  readonly min: Float64Array
  readonly max: Float64Array
  readonly mean: Float64Array
  readonly last: Float64Array
}

const STEPS_MS = [
  10_000,
  30_000,
  60_000,
  2 * 60_000,
  5 * 60_000,
  10 * 60_000,
  15 * 60_000,
  30 * 60_000,
  HOUR_MS,
  2 * HOUR_MS,
  3 * HOUR_MS,
  6 * HOUR_MS,
  12 * HOUR_MS,
  24 * HOUR_MS,
  2 * 24 * HOUR_MS,
  7 * 24 * HOUR_MS,
]

/**
 * The raster of a window: at most so many columns of a round width, which begin at whole multiples of it.
 * @param leastMs narrower columns would be empty between two readings
 */
export function rasterOf(
  { fromMs, toMs }: { readonly fromMs: number; readonly toMs: number },
  most: number,
  leastMs = 0,
): Raster {
  const span = Math.max(1, toMs - fromMs)
  const stepMs =
    STEPS_MS.find((step) => step >= leastMs && Math.ceil(span / step) + 1 <= most) ??
    Math.ceil(span / (most - 1) / (24 * HOUR_MS)) * 24 * HOUR_MS
  const from = Math.floor(fromMs / stepMs) * stepMs
  return { fromMs: from, stepMs, columns: Math.max(1, Math.ceil((toMs - from) / stepMs)) }
}

/** Whether a raster can be filled from summaries of hours. */
export const isOfHours = ({ fromMs, stepMs }: Raster): boolean =>
  stepMs % HOUR_MS === 0 && fromMs % HOUR_MS === 0

const emptyRow = (columns: number): Row => ({
  min: new Float64Array(columns).fill(NaN),
  max: new Float64Array(columns).fill(NaN),
  mean: new Float64Array(columns).fill(NaN),
  last: new Float64Array(columns).fill(NaN),
})

/** Readings gathered into the columns of a raster; NaN readings are left out. */
export function rowOfCurve({ times, values }: Curve, raster: Raster): Row {
  const { fromMs, stepMs, columns } = raster
  const row = emptyRow(columns)
  let index = lowerBound(times, fromMs)
  for (let column = 0; column < columns; column += 1) {
    const end = fromMs + (column + 1) * stepMs
    let [count, sum, min, max, last] = [0, 0, Infinity, -Infinity, NaN]
    for (; index < times.length && times[index]! < end; index += 1) {
      const value = values[index]!
      if (Number.isNaN(value)) continue
      count += 1
      sum += value
      if (value < min) min = value
      if (value > max) max = value
      last = value
    }
    if (count === 0) continue
    row.min[column] = min
    row.max[column] = max
    row.mean[column] = sum / count
    row.last[column] = last
  }
  return row
}

/**
 * A row whose empty columns between two readings say what was read before them, as long as nothing was missed: where a
 * source was asked less often than columns are wide.
 * @param longestMs what is further apart is a gap, unless the readings around it are as far apart
 */
export function heldRow(row: Row, times: Float64Array, raster: Raster, longestMs: number): Row {
  const { fromMs, stepMs, columns } = raster
  const last = times.at(-1) ?? -Infinity
  const gaps = findGaps(times, longestMs, last)
  let gap = 0
  let known = -1
  for (let column = 0; column < columns; column += 1) {
    if (!Number.isNaN(row.last[column]!)) {
      known = column
      continue
    }
    const middle = fromMs + (column + 0.5) * stepMs
    if (known < 0 || middle > last) continue
    while (gap < gaps.length && gaps[gap]!.toMs <= middle) gap += 1
    if (gap < gaps.length && gaps[gap]!.fromMs <= middle) continue
    const value = row.last[known]!
    row.min[column] = value
    row.max[column] = value
    row.mean[column] = value
    row.last[column] = value
  }
  return row
}

/** The same from summaries of hours; the raster must be one of whole hours. */
export function rowOfHours(hours: Hours, raster: Raster): Row {
  const { fromMs, stepMs, columns } = raster
  const row = emptyRow(columns)
  const counts = new Float64Array(columns)
  const { times, count, sum, min, max, last } = hours
  for (let index = lowerBound(times, fromMs); index < times.length; index += 1) {
    const column = Math.floor((times[index]! - fromMs) / stepMs)
    if (column >= columns) break
    const before = counts[column]!
    counts[column] = before + count[index]!
    row.mean[column] = (before === 0 ? 0 : row.mean[column]!) + sum[index]!
    row.min[column] = before === 0 ? min[index]! : Math.min(row.min[column]!, min[index]!)
    row.max[column] = before === 0 ? max[index]! : Math.max(row.max[column]!, max[index]!)
    row.last[column] = last[index]!
  }
  for (let column = 0; column < columns; column += 1)
    if (counts[column]! > 0) row.mean[column] = row.mean[column]! / counts[column]!
  return row
}

/** The middles of the columns, ms since the epoch. */
export const middlesOf = ({ fromMs, stepMs, columns }: Raster): Float64Array =>
  Float64Array.from({ length: columns }, (_, column) => fromMs + (column + 0.5) * stepMs)
