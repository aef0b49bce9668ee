import type { GearKind, MeasureKey, PartKind } from '../measures/index.ts'
import type { LevelRule, Rule, StateRule } from './rule.ts'

/** What a series is about, as far as scopes ask. */
export interface Subject {
  readonly measure: MeasureKey
  readonly gearKind: GearKind
  readonly partKind: PartKind | null
}

/** A scope that names a kind covers that kind only; `null` covers every kind. */
export function ruleCovers(rule: LevelRule | StateRule, subject: Subject): boolean {
  return (
    rule.measure === subject.measure &&
    (rule.gearKind === null || rule.gearKind === subject.gearKind) &&
    (rule.partKind === null || rule.partKind === subject.partKind)
  )
}

/**
 * The one rule that is in force on a series: the most specific of those that cover it.
 * A kind of part is more specific than a kind of gear; ties go to the rule listed first.
 */
export function lineInForce(rules: readonly Rule[], subject: Subject): LevelRule | StateRule | null {
  let best: LevelRule | StateRule | null = null
  for (const rule of rules) {
    if (rule.kind === 'noData' || !ruleCovers(rule, subject)) continue
    if (best === null || specificity(rule) > specificity(best)) best = rule
  }
  return best
}

const specificity = (rule: LevelRule | StateRule): number =>
  (rule.partKind === null ? 0 : 2) + (rule.gearKind === null ? 0 : 1)
