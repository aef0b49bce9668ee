import type { Row } from '../readings/index.ts'

/** What a table says of a curve over a window; `null` where nothing was heard, or where it was not asked for. */
export interface CurveStatistics {
  readonly last: number | null
  readonly min: number | null
  readonly mean: number | null
  readonly max: number | null
  readonly p95: number | null
  readonly p99: number | null
  /** The share of readings beyond the line, 0..1. */
  readonly beyond: number | null
}

export const NO_STATISTICS: CurveStatistics = {
  last: null,
  min: null,
  mean: null,
  max: null,
  p95: null,
  p99: null,
  beyond: null,
}

export interface LineAcross {
  readonly at: number
  readonly direction: 'above' | 'below'
}

export const isBeyondLine = ({ at, direction }: LineAcross, value: number): boolean =>
  direction === 'above' ? value > at : value < at

/** Statistics of a row that was computed and has no readings of its own: of its columns, each weighing the same. */
export function statisticsOfRow(row: Row, line: LineAcross | null): CurveStatistics {
  const means = row.mean.filter((value) => !Number.isNaN(value))
  if (means.length === 0) return NO_STATISTICS
  const sorted = means.slice().sort()
  const at = (ratio: number): number => {
    const place = ratio * (sorted.length - 1)
    const lower = Math.floor(place)
    const upper = Math.min(sorted.length - 1, lower + 1)
    return sorted[lower]! + (sorted[upper]! - sorted[lower]!) * (place - lower)
  }
  const heard = (values: Float64Array) => values.filter((value) => !Number.isNaN(value))
  return {
    last: heard(row.last).at(-1) ?? null,
    min: heard(row.min).reduce((least, value) => Math.min(least, value), Infinity),
    mean: means.reduce((sum, value) => sum + value, 0) / means.length,
    max: heard(row.max).reduce((most, value) => Math.max(most, value), -Infinity),
    p95: at(0.95),
    p99: at(0.99),
    beyond: line === null ? null : means.filter((value) => isBeyondLine(line, value)).length / means.length,
  }
}

/** The longest stretch beyond a line, ms: columns one after the other whose mean is beyond it; a gap ends a stretch. */
export function longestBeyond(values: Float64Array, stepMs: number, line: LineAcross): number {
  let [longest, run] = [0, 0]
  for (const value of values) {
    run = isBeyondLine(line, value) ? run + 1 : 0
    if (run > longest) longest = run
  }
  return longest * stepMs
}
