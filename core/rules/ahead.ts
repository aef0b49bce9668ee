import { GEAR_KINDS, type GearKind, measureOf } from '../catalogue/index.ts'
import type { AheadRule, Severity } from './rule.ts'
import { type KeptRule, rulesInForce, type Subject } from './scope.ts'
import { lower } from './words.ts'

const DAY_MS = 86_400_000

/** What is forecast of one thing, as far as a rule on days left needs it. */
export interface Outlook {
  readonly verdict: 'crosses' | 'not-in-sight' | 'too-little' | 'over'
  /** When it is expected to reach its line. */
  readonly runOutMs: number | null
  /** An order that should have come by then: it needs nobody until that day is past. */
  readonly orderedForMs: number | null
  /** A rule on its level tells when it is over its line. */
  readonly hasLevelRule: boolean
}

/** What becomes of a rule on days left; `null` is that it does not hold. */
export interface AheadVerdict {
  readonly severity: Severity | null
  readonly daysLeft: number | null
  /** Why it does not hold, in a sentence that stands for itself. */
  readonly because: string
}

/**
 * Whether a rule on its level is in force on a series, in the direction in which it runs out: it tells when its line is
 * crossed, and rules on days left do not.
 */
export const hasLevel = (rules: readonly KeptRule[], subject: Subject, direction: 'up' | 'down'): boolean =>
  rulesInForce(rules, subject).some(
    ({ kept: { rule } }) =>
      rule.kind === 'level' &&
      rule.of.with === null &&
      rule.direction === (direction === 'up' ? 'above' : 'below'),
  )

/** A date that moves a little from one night to the next does not make it come and go. */
const stays = (days: number): number => days * 1.25 + 2

/**
 * Holds a rule on days left against what is forecast. What is over its line already is told by the rule of that line; where
 * there is none it has no day left.
 * @param held how it is held up to now: to come down a severity it takes a quarter more of days, and two
 */
export function judgeAhead(
  rule: Pick<AheadRule, 'lines'>,
  outlook: Outlook | null,
  { nowMs, held }: { readonly nowMs: number; readonly held: Severity | null },
): AheadVerdict {
  const none = (because: string, daysLeft: number | null = null): AheadVerdict => ({
    severity: null,
    daysLeft,
    because,
  })
  if (outlook === null) return none('It is not forecast any more.')
  if (outlook.verdict === 'too-little') return none('It is too early to say when it runs out.')
  const isOver = outlook.verdict === 'over'
  if (isOver && outlook.hasLevelRule)
    return none('It has reached its line, which is told by the rule of that line.')
  if (!isOver && outlook.runOutMs === null) return none('No run-out is in sight any more.')
  const daysLeft = isOver ? 0 : Math.max(0, (outlook.runOutMs! - nowMs) / DAY_MS)
  if (outlook.orderedForMs !== null && outlook.orderedForMs + DAY_MS > nowMs)
    return none('It has been ordered.', daysLeft)
  const under = (severity: Severity, edge: (days: number) => number): boolean =>
    rule.lines.some((line) => line.severity === severity && daysLeft < edge(line.days))
  const same = (days: number): number => days
  if (under('critical', held === 'critical' ? stays : same))
    return { severity: 'critical', daysLeft, because: '' }
  if (under('warning', held === null ? same : stays)) return { severity: 'warning', daysLeft, because: '' }
  return none(`${daysWords(daysLeft)} are left now.`, daysLeft)
}

export const daysWords = (days: number): string => {
  const whole = Math.round(days)
  return whole === 1 ? '1 day' : `${whole} days`
}

/** What runs out, by its name: “Store gannet-03”, “d4 in petrel-02”. */
export function aheadName(gear: string, kind: GearKind, part: string | null): string {
  if (part !== null) return `${part} in ${gear}`
  return kind === 'ups' ? `UPS ${gear}` : `${GEAR_KINDS[kind].label} ${gear}`
}

/** “Store gannet-03 runs out in 12 days”, with the part where it is one. */
export function aheadTitle({
  name,
  kind,
  daysLeft,
}: {
  readonly name: string
  /** How it runs out, as the forecast calls it. */
  readonly kind: string
  /** `null`: it is over its line. */
  readonly daysLeft: number | null
}): string {
  if (daysLeft === null) return `${name} has reached its line`
  const within = daysLeft < 1 ? 'within a day' : `in ${daysWords(daysLeft)}`
  switch (kind) {
    case 'wear':
    case 'written':
      return `${name} wears out ${within}`
    case 'inodes':
      return `${name} has no inodes left ${within}`
    case 'runtime':
      return `The battery of ${name} falls below its line ${within}`
    case 'power':
    case 'demand':
    case 'temperature':
      return `${name} reaches its line ${within}`
    default:
      return `${name} runs out ${within}`
  }
}

/** Why it is told: which line is reached when, and by how much the date may be off. */
export function aheadReason(
  rule: Pick<AheadRule, 'measure'>,
  told: {
    /** “critical 85 %”. */
    readonly line: string
    /** `null`: it is over its line. */
    readonly date: string | null
    readonly early: string | null
    readonly late: string | null
    readonly sentence: string
  },
): string {
  const of = measureOf(rule.measure).label
  if (told.date === null) return `${of} has reached ${lower(told.line)}. ${told.sentence}`
  const band =
    told.early === null || told.early === told.late
      ? ''
      : `, between ${told.early} and ${told.late ?? 'beyond two years'} in 8 of 10 cases`
  return `${of} reaches ${lower(told.line)} on ${told.date}${band}. ${told.sentence}`
}
