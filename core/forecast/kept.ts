import type { MeasureKey } from '../catalogue/index.ts'
import type { Seen } from './face.ts'
import type { RunOutLine } from './finite.ts'

/** What is kept of a forecast beside its dates. */
export interface KeptForecast {
  readonly kind: string
  /** In the unit of `measure`, as is everything here. */
  readonly measure: MeasureKey
  readonly line: RunOutLine
  /** The same line in the unit of the series, as the rule has it. */
  readonly given: number
  readonly direction: 'up' | 'down'
  readonly leadDays: number
  /** When the crossing comes with a probability of 10 and of 90 %; `null`: later than the horizon. */
  readonly earlyMs: number | null
  readonly lateMs: number | null
  readonly sentence: string
  readonly seen: readonly Seen[]
  /** The worst value of every so many days ahead. */
  readonly ahead: {
    readonly everyDays: number
    readonly p10: readonly number[]
    readonly p50: readonly number[]
    readonly p90: readonly number[]
  }
  /** The dates of other lines, and of this one if growth were another; `null`: later than the horizon. */
  readonly others: readonly { readonly line: RunOutLine; readonly atMs: number | null }[]
  readonly whatIf: readonly { readonly growth: number; readonly atMs: number | null }[]
  /** Of past forecasts for thirty days ahead how many held, and what they said. */
  readonly proofs: readonly Proof[]
  /** The newest day for which a past forecast was held against what came; `null`: not yet. */
  readonly provenToMs?: number | null
  /** Days of history, and what was marked when it was made: it is made anew when these are others. */
  readonly days: number
  readonly marks: string
}

/** A forecast made from the past, and what came. */
export interface Proof {
  readonly forMs: number
  readonly low: number
  readonly high: number
  readonly came: number
}
