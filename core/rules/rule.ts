import type { GearKind, MeasureKey, PartKind } from '../measures/index.ts'

/** Worst first. */
export const SEVERITIES = ['critical', 'warning'] as const
export type Severity = (typeof SEVERITIES)[number]

export const worst = (severities: Iterable<Severity>): Severity | null => {
  const seen = new Set(severities)
  return SEVERITIES.find((severity) => seen.has(severity)) ?? null
}

interface RuleBase {
  /** Stable name of a shipped default, or of an own rule. */
  readonly key: string
  readonly name: string
  /** Why the line sits where it sits, in words. */
  readonly why: string
}

interface Scope {
  readonly measure: MeasureKey
  readonly gearKind: GearKind | null
  readonly partKind: PartKind | null
}

/** Holds when at least `k` of the last `n` readings are beyond the line. */
interface Persistence {
  readonly k: number
  readonly n: number
}

/** A line to warn at and a line that is critical; either may be missing. In the unit of the measure. */
export interface LevelRule extends RuleBase, Scope, Persistence {
  readonly kind: 'level'
  readonly direction: 'above' | 'below'
  readonly warning: number | null
  readonly critical: number | null
}

/** States that need somebody, each with how much. */
export interface StateRule extends RuleBase, Scope, Persistence {
  readonly kind: 'state'
  readonly states: Readonly<Record<number, Severity>>
}

/** A source that has not been heard for so many of its intervals. */
export interface NoDataRule extends RuleBase {
  readonly kind: 'noData'
  readonly intervals: number
  readonly severity: Severity
}

export type Rule = LevelRule | StateRule | NoDataRule

/** One reading as a rule sees it. */
export interface Sample {
  readonly atMs: number
  readonly value: number
}
