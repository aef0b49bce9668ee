import type { GearKind, MeasureKey, PartKind, SensorRole } from '../catalogue/index.ts'

/** Worst first. */
export const SEVERITIES = ['critical', 'warning'] as const
export type Severity = (typeof SEVERITIES)[number]

export const worst = (severities: Iterable<Severity>): Severity | null => {
  const seen = new Set(severities)
  return SEVERITIES.find((severity) => seen.has(severity)) ?? null
}

/** Which gear a rule is for, beside its kinds. From the widest to the narrowest, which is the order of precedence. */
export type Where =
  | { readonly kind: 'everywhere' }
  | { readonly kind: 'tag'; readonly tag: string }
  | { readonly kind: 'room'; readonly id: number }
  | { readonly kind: 'rack'; readonly id: number }
  | { readonly kind: 'cluster'; readonly name: string }
  | { readonly kind: 'group'; readonly id: number }
  | { readonly kind: 'gear'; readonly id: number }
  | { readonly kind: 'part'; readonly id: number }

export interface Scope {
  /** `null` is every kind. */
  readonly gearKind: GearKind | null
  /** `null` is every kind, and the gear as a whole. */
  readonly partKind: PartKind | null
  /** Where it measures; not said is everywhere. */
  readonly role?: SensorRole | null
  readonly where: Where
}

export const EVERYWHERE: Where = { kind: 'everywhere' }

interface RuleBase {
  /** Stable name of a shipped default, or of an own rule. */
  readonly key: string
  readonly name: string
  /** Why the line sits where it sits, in words. */
  readonly why: string
  readonly scope: Scope
}

/**
 * How long something must be so before a rule holds. `count`: at least `k` of the last `n` readings (n in a row is k = n;
 * at most 30). `duration`: without a break for so long; a gap between two readings of up to `bridgeMs` is no break.
 */
export type Persistence =
  | { readonly kind: 'count'; readonly k: number; readonly n: number }
  | { readonly kind: 'duration'; readonly ms: number; readonly bridgeMs: number }

export const MOST_COUNTED = 30
/** Of a persistence that does not say otherwise. */
export const BRIDGE_MS = 5 * 60_000

export const ofLast = (k: number, n: number): Persistence => ({ kind: 'count', k, n })
export const lasting = (ms: number, bridgeMs = BRIDGE_MS): Persistence => ({ kind: 'duration', ms, bridgeMs })

/** What is compared: a measure, or what two measures of one part, or of one gear, come to together. */
export interface Quantity {
  readonly measure: MeasureKey
  readonly with: null | { readonly how: 'difference' | 'ratio'; readonly measure: MeasureKey }
}

/**
 * A level, in the unit of what is compared. Once it has been crossed, the rule holds until the value is back beyond
 * `back`; `null` is the level itself.
 */
export interface Line {
  readonly severity: Severity
  readonly at: number
  readonly back: number | null
}

export interface LevelRule extends RuleBase {
  readonly kind: 'level'
  readonly of: Quantity
  readonly direction: 'above' | 'below'
  /** One of a severity at most. */
  readonly lines: readonly Line[]
  readonly persistence: Persistence
}

/** Outside of what is allowed. It is back once it is inside by `margin`. */
export interface Band {
  readonly severity: Severity
  readonly low: number
  readonly high: number
  readonly margin: number
}

export interface BandRule extends RuleBase {
  readonly kind: 'band'
  readonly of: Quantity
  readonly bands: readonly Band[]
  readonly persistence: Persistence
}

/** How much a value moves within a span of time. Lines are in the unit of a difference of the measure. */
export interface RateRule extends RuleBase {
  readonly kind: 'rate'
  readonly of: Quantity
  readonly direction: 'rising' | 'falling'
  readonly withinMs: number
  readonly lines: readonly Line[]
  readonly persistence: Persistence
}

/** States that need somebody, each with how much. */
export interface StateRule extends RuleBase {
  readonly kind: 'state'
  readonly of: Quantity
  readonly states: Readonly<Record<number, Severity>>
  /** Of every state that is neither above nor one of `well`. */
  readonly otherwise: { readonly severity: Severity; readonly well: readonly number[] } | null
  /** Only once it has been in this state: a port that never had a link has lost none. */
  readonly after: number | null
  readonly persistence: Persistence
}

/** Another value than the reading before. It holds for `holdMs`, so that somebody sees it. */
export interface ChangeRule extends RuleBase {
  readonly kind: 'change'
  readonly of: Quantity
  readonly severity: Severity
  readonly holdMs: number
}

export interface Half {
  readonly measure: MeasureKey
  readonly direction: 'above' | 'below'
  readonly at: number
  readonly back: number | null
}

/** Two measures of one part, or of one gear, both beyond their lines at one time: much goes out while little comes in. */
export interface PairRule extends RuleBase {
  readonly kind: 'pair'
  readonly first: Half
  readonly second: Half
  readonly severity: Severity
  readonly persistence: Persistence
}

/** How many of all in the scope are beyond a line, or in a state, at one time. */
export interface CountRule extends RuleBase {
  readonly kind: 'count'
  readonly measure: MeasureKey
  readonly member:
    | { readonly kind: 'level'; readonly direction: 'above' | 'below'; readonly at: number }
    | { readonly kind: 'state'; readonly states: readonly number[] }
  readonly least: readonly { readonly severity: Severity; readonly count: number }[]
  readonly persistence: Persistence
}

/** What devices say by themselves: so many that fit a pattern, of one gear, within a window. */
export interface TextRule extends RuleBase {
  readonly kind: 'text'
  readonly pattern: string
  /** At most this syslog severity: 0 emergency to 7 debug (RFC 5424 §6.2.1). */
  readonly atMost: number
  readonly count: number
  readonly windowMs: number
  readonly severity: Severity
}

/** A source that has not been heard for so many of its intervals. */
export interface NoDataRule extends RuleBase {
  readonly kind: 'noData'
  readonly intervals: number
  readonly severity: Severity
}

/** One series falls silent while its source is still heard: a probe behind a gateway. */
export interface SilentRule extends RuleBase {
  readonly kind: 'silent'
  readonly measure: MeasureKey
  readonly afterMs: number
  readonly severity: Severity
}

/**
 * What is forecast to reach its line within so many days. It stays until a quarter more of days are left, and two; what
 * has been ordered is waited for.
 */
export interface AheadRule extends RuleBase {
  readonly kind: 'ahead'
  readonly measure: MeasureKey
  /** One of a severity at most. */
  readonly lines: readonly { readonly severity: Severity; readonly days: number }[]
}

/** Judged reading by reading, from one series or two of the same part or gear. */
export type SeriesRule = LevelRule | BandRule | RateRule | StateRule | ChangeRule | PairRule
export type Rule = SeriesRule | CountRule | TextRule | NoDataRule | SilentRule | AheadRule
export type RuleKind = Rule['kind']

const SERIES_KINDS: ReadonlySet<RuleKind> = new Set(['level', 'band', 'rate', 'state', 'change', 'pair'])
export const isSeriesRule = (rule: Rule): rule is SeriesRule => SERIES_KINDS.has(rule.kind)

/** The measure whose series a rule is judged on; `null` of rules that are not about a measure. */
export function measureOfRule(rule: Rule): MeasureKey | null {
  switch (rule.kind) {
    case 'noData':
    case 'text':
      return null
    case 'count':
    case 'silent':
    case 'ahead':
      return rule.measure
    case 'pair':
      return rule.first.measure
    default:
      return rule.of.measure
  }
}

/** The second measure that a rule needs, of the same part or gear. */
export function companionOf(rule: SeriesRule): MeasureKey | null {
  return rule.kind === 'pair' ? rule.second.measure : (rule.of.with?.measure ?? null)
}

/** The line of a severity; a rule without one of its own for *warning* has none below *critical*. */
export const lineOf = (rule: LevelRule | RateRule, severity: Severity): Line | null =>
  rule.lines.find((line) => line.severity === severity) ?? null

/** One reading as a rule sees it. */
export interface Sample {
  readonly atMs: number
  readonly value: number
}
