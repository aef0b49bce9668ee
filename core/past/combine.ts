import type { Raster, Row } from '../readings/index.ts'

/** What was not heard for longer is gone, and not a gap: it is left out of a sum from there on. */
export const GONE_MS = 24 * 3_600_000

/**
 * One row of several. A mean, a highest or a lowest is that of whatever was heard in a column. A sum has a gap where one
 * of its members was not heard, for a sum without it would be another sum; but a member counts only from the first
 * time it was heard, and no more once it was not heard for a day or longer.
 */
export function combineRows(how: 'sum' | 'mean' | 'max' | 'min', rows: readonly Row[], raster: Raster): Row {
  const columns = raster.columns
  const made = { min: nanRow(columns), max: nanRow(columns), mean: nanRow(columns), last: nanRow(columns) }
  const lacking = how === 'sum' ? rows.map((row) => lackingIn(row.mean, raster)) : []
  for (let column = 0; column < columns; column += 1) {
    if (lacking.some((each) => each[column] === 1)) continue
    for (const part of ['min', 'max', 'mean', 'last'] as const)
      made[part][column] = fold(how, rows, part, column)
  }
  return made
}

const nanRow = (columns: number): Float64Array => new Float64Array(columns).fill(NaN)

function fold(
  how: 'sum' | 'mean' | 'max' | 'min',
  rows: readonly Row[],
  part: keyof Row,
  column: number,
): number {
  let [count, sum, max, min] = [0, 0, -Infinity, Infinity]
  for (const row of rows) {
    const value = row[part][column]!
    if (Number.isNaN(value)) continue
    count += 1
    sum += value
    if (value > max) max = value
    if (value < min) min = value
  }
  if (count === 0) return NaN
  return how === 'sum' ? sum : how === 'mean' ? sum / count : how === 'max' ? max : min
}

/** In which columns a member of a sum is missed: 1 where it was heard before and is heard again within a day. */
function lackingIn(values: Float64Array, { stepMs }: Raster): Uint8Array {
  const lacking = new Uint8Array(values.length)
  const most = Math.max(1, Math.floor(GONE_MS / stepMs))
  let last = -1
  for (let column = 0; column <= values.length; column += 1) {
    const isHeard = column < values.length && !Number.isNaN(values[column]!)
    if (!isHeard && column < values.length) continue
    const gap = column - last - 1
    if (last >= 0 && gap > 0 && gap <= most) lacking.fill(1, last + 1, column)
    last = column
  }
  return lacking
}

/** One row less another, or divided by it; a gap where either has one, and where it would be divided by 0. */
export function againstRow(how: 'less' | 'by', a: Row, b: Row): Row {
  const each = (of: Float64Array, other: Float64Array): Float64Array =>
    of.map((value, column) => {
      const divisor = other[column]!
      if (how === 'less') return value - divisor
      return divisor === 0 ? NaN : value / divisor
    })
  const mean = each(a.mean, b.mean)
  // What the least and the most of a quotient within a column were is not known: both are taken from the means.
  return { min: mean, max: mean, mean, last: each(a.last, b.last) }
}

/** How fast a running total grows, a second: from the last reading of one column to that of the next. A fall is a reset. */
export function rateRow({ last }: Row, { stepMs }: Raster): Row {
  const rate = nanRow(last.length)
  let before = -1
  for (let column = 0; column < last.length; column += 1) {
    if (Number.isNaN(last[column]!)) continue
    if (before >= 0) {
      const grown = last[column]! - last[before]!
      const seconds = ((column - before) * stepMs) / 1000
      // What was missed between is not spread over it.
      if (grown >= 0 && column - before === 1) rate[column] = grown / seconds
    }
    before = column
  }
  return { min: rate, max: rate, mean: rate, last: rate }
}

/** Of each column the least, the quartiles and the most of many rows' means; linear between ranks (SQL PERCENTILE_CONT). */
export interface Band {
  readonly min: Float64Array
  readonly low: Float64Array
  readonly median: Float64Array
  readonly high: Float64Array
  readonly max: Float64Array
}

export function bandOf(rows: readonly Row[], { columns }: Raster): Band {
  const band = {
    min: nanRow(columns),
    low: nanRow(columns),
    median: nanRow(columns),
    high: nanRow(columns),
    max: nanRow(columns),
  }
  const room = new Float64Array(rows.length)
  for (let column = 0; column < columns; column += 1) {
    let count = 0
    for (const row of rows) {
      const value = row.mean[column]!
      if (!Number.isNaN(value)) room[count++] = value
    }
    if (count === 0) continue
    const sorted = room.subarray(0, count).sort()
    const at = (ratio: number): number => {
      const place = ratio * (count - 1)
      const lower = Math.floor(place)
      const upper = Math.min(count - 1, lower + 1)
      return sorted[lower]! + (sorted[upper]! - sorted[lower]!) * (place - lower)
    }
    band.min[column] = sorted[0]!
    band.low[column] = at(0.25)
    band.median[column] = at(0.5)
    band.high[column] = at(0.75)
    band.max[column] = sorted[count - 1]!
  }
  return band
}
