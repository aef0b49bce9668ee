/** One finite thing's history and the line that it must not cross. */
export interface ForecastInput {
  readonly kind: FiniteKind
  /** Ascending, UTC; an hour or a day apart, with gaps and late samples. */
  readonly atMs: Float64Array
  /** One each; NaN is missing. */
  readonly values: Float64Array
  /** Capacity in force at each instant, absolute. */
  readonly capacity?: Float64Array
  /** Percent load at each instant (battery runtimes); taken to stay as it is now. */
  readonly load?: Float64Array
  /** Values are percent of the capacity in force at their time. */
  readonly isPercentOfCapacity?: boolean
  /** A running total that restarts from zero at a reset; the line counts the total. */
  readonly isCounter?: boolean
  /** In the unit of the values, at the last capacity. */
  readonly line: number
  /** Up: a ceiling, the worst value of a day is its maximum; down: a floor, its minimum. */
  readonly direction: 'up' | 'down'
  readonly nowMs: number
  readonly horizonDays: number
  /** Same input, same answer. */
  readonly seed: number
  /** What people have said of jumps in this history. */
  readonly marks?: readonly Mark[]
}

export type FiniteKind =
  'space' | 'inodes' | 'demand' | 'wear' | 'written' | 'runtime' | 'power' | 'temperature'

/** A jump was a one-off, or is part of how the thing grows. */
export interface Mark {
  readonly atMs: number
  readonly as: 'one-off' | 'growth'
}

/** What was recognised in a history; sizes in the unit of the line, rates in it a day. */
export type Seen =
  | { readonly what: 'growth'; readonly perDay: number; readonly sinceMs: number; readonly shape: Shape }
  | { readonly what: 'step'; readonly atMs: number; readonly size: number; readonly isMarked: boolean }
  | { readonly what: 'rate'; readonly atMs: number; readonly fromPerDay: number; readonly toPerDay: number }
  | { readonly what: 'jumps'; readonly count: number; readonly size: number; readonly everyDays: number }
  | { readonly what: 'teeth'; readonly count: number; readonly size: number; readonly everyDays: number }
  | { readonly what: 'week'; readonly size: number }
  | { readonly what: 'year'; readonly size: number }
  | { readonly what: 'reset'; readonly atMs: number; readonly size: number }
  | { readonly what: 'outlier'; readonly atMs: number; readonly value: number }
  | { readonly what: 'capacity'; readonly atMs: number; readonly from: number; readonly to: number }
  | { readonly what: 'gap'; readonly fromMs: number; readonly toMs: number }

export type Shape = 'flat' | 'line' | 'levelling' | 'accelerating' | 'yearly' | 'jumps'

export type Verdict = 'crosses' | 'not-in-sight' | 'too-little' | 'over'

export interface Forecast {
  readonly verdict: Verdict
  /** The crossing comes before this instant with probability 10 %; `null`: later than the horizon. */
  readonly p10Ms: number | null
  readonly p50Ms: number | null
  readonly p90Ms: number | null
  /** Worst value of each day ahead, in the unit of the line. */
  readonly days: {
    readonly p10: Float64Array
    readonly p50: Float64Array
    readonly p90: Float64Array
  }
  readonly seen: readonly Seen[]
  /** What was found, as a sentence. */
  readonly sentence: string
}

export const DAY_MS = 86_400_000
export const HOUR_MS = 3_600_000
