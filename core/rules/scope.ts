import type { GearKind, MeasureKey, PartKind, SensorRole } from '../catalogue/index.ts'
import { measureOfRule, type Rule, type Scope, type Where } from './rule.ts'

/** What a series is about, as far as scopes ask. */
export interface Subject {
  readonly measure: MeasureKey
  readonly gearKind: GearKind
  readonly partKind: PartKind | null
  readonly gearId: number
  readonly partId: number | null
  /** Where it measures: of a part, or of a probe by where it hangs; not said is nobody knows. */
  readonly role?: SensorRole | null
  /** Of a part: its gear tells the same of itself as a whole, and that is what is judged (`JUDGED_AS_WHOLE`). */
  readonly hasWhole?: boolean
  readonly tags: readonly string[]
  readonly roomId: number | null
  readonly rackId: number | null
  readonly cluster: string | null
  readonly groupIds: readonly number[]
}

/** A rule as it is kept: shipped with the application, or one of this installation. */
export interface KeptRule {
  readonly id: number
  readonly rule: Rule
  readonly isDefault: boolean
  readonly isOn: boolean
}

/** From the widest to the narrowest: what stands later wins. */
export const PRECEDENCE: readonly Where['kind'][] = [
  'everywhere',
  'tag',
  'room',
  'rack',
  'cluster',
  'group',
  'gear',
  'part',
]

export function isAt(where: Where, subject: Omit<Subject, 'measure' | 'gearKind' | 'partKind'>): boolean {
  switch (where.kind) {
    case 'everywhere':
      return true
    case 'tag':
      return subject.tags.includes(where.tag)
    case 'room':
      return subject.roomId === where.id
    case 'rack':
      return subject.rackId === where.id
    case 'cluster':
      return subject.cluster === where.name
    case 'group':
      return subject.groupIds.includes(where.id)
    case 'gear':
      return subject.gearId === where.id
    case 'part':
      return subject.partId === where.id
  }
}

/** A host is a server on which machines run: which of the two it is called hangs on who told of it first. */
export const isOfKind = (named: GearKind | null, kind: GearKind): boolean =>
  named === null || named === kind || (named === 'server' && kind === 'host')

/** A scope that names a kind covers that kind only; `null` covers every kind. */
export const scopeCovers = (scope: Scope, subject: Omit<Subject, 'measure'>): boolean =>
  isOfKind(scope.gearKind, subject.gearKind) &&
  (scope.partKind === null || scope.partKind === subject.partKind) &&
  (scope.role == null || scope.role === subject.role) &&
  isAt(scope.where, subject)

/** Of what is judged as a whole, a part is covered by a rule that names it, its kind, or where it measures. */
const meansParts = ({ partKind, role, where }: Scope): boolean =>
  partKind !== null || role != null || where.kind === 'part'

export const ruleCovers = (rule: Rule, subject: Subject): boolean =>
  measureOfRule(rule) === subject.measure &&
  scopeCovers(rule.scope, subject) &&
  (subject.hasWhole !== true || meansParts(rule.scope))

/**
 * Rules that say the same of a series stand against each other, and one of them is in force; the others are overridden.
 * A level above and one below say different things, and both are in force.
 */
export function contestOf(rule: Rule): string {
  switch (rule.kind) {
    case 'level':
      return `level ${rule.direction} ${againstWhat(rule.of.with)}`
    case 'band':
      return `band ${againstWhat(rule.of.with)}`
    case 'rate':
      return `rate ${rule.direction} ${againstWhat(rule.of.with)}`
    case 'pair':
      return `pair ${rule.first.direction} ${rule.second.measure} ${rule.second.direction}`
    case 'text':
      return `text ${rule.pattern} ${rule.severity}`
    case 'count':
      return `count ${rule.member.kind === 'level' ? rule.member.direction : 'state'}`
    default:
      return rule.kind
  }
}

const againstWhat = (other: { readonly how: string; readonly measure: MeasureKey } | null): string =>
  other === null ? '' : `${other.how} ${other.measure}`

export interface InForce {
  readonly kept: KeptRule
  /** What it takes the place of, the next most specific first. */
  readonly overrides: readonly KeptRule[]
}

/**
 * The rules in force on a series: of those that say the same, the most specific. The order is: the place of the scope
 * (part before gear, group, cluster, rack, room, tag, everywhere), then a scope that names where something measures, then
 * one that names a kind of part, then one that names a kind of gear, then own before shipped, then the one that was made first.
 */
export const rulesInForce = (rules: readonly KeptRule[], subject: Subject): InForce[] =>
  settle(rules.filter((kept) => kept.isOn && ruleCovers(kept.rule, subject)))

/** The same for rules that are about a gear as a whole, and not about a measure of it. */
export const rulesInForceFor = (
  rules: readonly KeptRule[],
  gear: Omit<Subject, 'measure' | 'partKind' | 'partId'>,
): InForce[] =>
  settle(
    rules.filter(
      (kept) =>
        kept.isOn &&
        measureOfRule(kept.rule) === null &&
        scopeCovers(kept.rule.scope, { ...gear, partKind: null, partId: null }),
    ),
  )

function settle(rules: readonly KeptRule[]): InForce[] {
  const contests = new Map<string, KeptRule[]>()
  for (const kept of rules) {
    const contest = contestOf(kept.rule)
    const rivals = contests.get(contest)
    if (rivals === undefined) contests.set(contest, [kept])
    else rivals.push(kept)
  }
  return [...contests.values()].map((rivals) => {
    const [first, ...overrides] = rivals.sort(byPrecedence)
    return { kept: first!, overrides }
  })
}

/** Before the other in precedence comes first. */
export function byPrecedence(a: KeptRule, b: KeptRule): number {
  return (
    PRECEDENCE.indexOf(b.rule.scope.where.kind) - PRECEDENCE.indexOf(a.rule.scope.where.kind) ||
    Number(b.rule.scope.role != null) - Number(a.rule.scope.role != null) ||
    Number(b.rule.scope.partKind !== null) - Number(a.rule.scope.partKind !== null) ||
    Number(b.rule.scope.gearKind !== null) - Number(a.rule.scope.gearKind !== null) ||
    Number(a.isDefault) - Number(b.isDefault) ||
    a.id - b.id
  )
}
