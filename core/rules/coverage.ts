import type { MeasureKey, PartKind, SensorRole } from '../catalogue/index.ts'
import { measureOfRule, type Where } from './rule.ts'
import { type InForce, isAt, type KeptRule, rulesInForce, rulesInForceFor, type Subject } from './scope.ts'

type GearSubject = Omit<Subject, 'measure' | 'partKind' | 'partId' | 'hasWhole'>

/** Gear that no rule can tell apart: of one kind, and each place that any rule names holds for all of it or for none. */
export interface GearClass {
  readonly example: GearSubject
  readonly gearIds: readonly number[]
}

export interface GearClasses {
  readonly classes: readonly GearClass[]
  /** Parts that a rule names: each of them is a class of its own. */
  readonly partIds: readonly number[]
}

/** Tens of thousands of series fall into some dozens of classes; a rule is held against each class once. */
export function classesOf(rules: readonly KeptRule[], gear: readonly GearSubject[]): GearClasses {
  const wheres = [
    ...new Map(rules.map(({ rule }) => [JSON.stringify(rule.scope.where), rule.scope.where])).values(),
  ]
  const places = wheres.filter(({ kind }) => kind !== 'everywhere' && kind !== 'part')
  const byKey = new Map<string, { example: GearSubject; gearIds: number[] }>()
  for (const each of gear) {
    const at = places.map((where) => (isAt(where, { ...each, partId: null }) ? '1' : '0')).join('')
    const key = `${each.gearKind} ${each.role ?? ''} ${at}`
    const known = byKey.get(key)
    if (known === undefined) byKey.set(key, { example: each, gearIds: [each.gearId] })
    else known.gearIds.push(each.gearId)
  }
  return { classes: [...byKey.values()], partIds: wheres.flatMap(partIdOf) }
}

const partIdOf = (where: Where): number[] => (where.kind === 'part' ? [where.id] : [])

/** So many series of a class are of one measure and one kind of part. */
export interface SeriesCount {
  /** Index of the class. */
  readonly of: number
  readonly measure: MeasureKey
  readonly partKind: PartKind | null
  readonly role?: SensorRole | null
  /** Of parts whose gear tells the same of itself as a whole. */
  readonly hasWhole: boolean
  /** Of a part that a rule names. */
  readonly partId: number | null
  readonly count: number
}

export interface Coverage {
  /** Series on which it is in force; of rules about sources and texts, gear. */
  readonly inForce: number
  /** Where another rule takes its place. */
  readonly overridden: number
}

/** Where each rule is in force, and where it is overridden, by its id. */
export function coverageOf(
  rules: readonly KeptRule[],
  { classes }: GearClasses,
  series: readonly SeriesCount[],
): ReadonlyMap<number, Coverage> {
  const coverage = new Map(rules.map(({ id }) => [id, { inForce: 0, overridden: 0 }]))
  const byMeasure = new Map<MeasureKey | null, KeptRule[]>()
  for (const kept of rules) {
    const measure = measureOfRule(kept.rule)
    byMeasure.set(measure, [...(byMeasure.get(measure) ?? []), kept])
  }
  const add = (settled: readonly InForce[], count: number): void => {
    for (const { kept, overrides } of settled) {
      coverage.get(kept.id)!.inForce += count
      for (const other of overrides) coverage.get(other.id)!.overridden += count
    }
  }
  for (const { of, measure, partKind, role, partId, hasWhole, count } of series) {
    const subject = { ...classes[of]!.example, measure, partKind, role: role ?? null, partId, hasWhole }
    add(rulesInForce(byMeasure.get(measure) ?? [], subject), count)
  }
  for (const { example, gearIds } of classes)
    add(rulesInForceFor(byMeasure.get(null) ?? [], example), gearIds.length)
  return coverage
}
