import { formatReading, measureOf } from '../catalogue/index.ts'
import { type CountRule, EVERYWHERE, type LevelRule } from './rule.ts'
import { listNames } from './sentences.ts'
import { lower } from './words.ts'

/** What of a group is beyond its line at one time. */
export interface Counted {
  /** Names of those that are. */
  readonly beyond: readonly string[]
  readonly known: number
  /** Of which nothing is heard now: they count neither way. */
  readonly unknown: number
}

export const isMemberBeyond = ({ member }: CountRule, value: number): boolean =>
  member.kind === 'state'
    ? member.states.includes(value)
    : member.direction === 'above'
      ? value > member.at
      : value < member.at

/** The same rule upon the number of members beyond: at least 3 is above 2½. */
export const countAsLevel = (rule: CountRule): LevelRule => ({
  kind: 'level',
  key: rule.key,
  name: rule.name,
  why: rule.why,
  scope: { gearKind: null, partKind: null, where: EVERYWHERE },
  of: { measure: rule.measure, with: null },
  direction: 'above',
  lines: rule.least.map(({ severity, count }) => ({ severity, at: count - 0.5, back: null })),
  persistence: rule.persistence,
})

const memberWords = ({ member, measure }: CountRule): string =>
  member.kind === 'level'
    ? `${member.direction} ${formatReading(measure, member.at)}`
    : member.states.map((value) => formatReading(measure, value)).join(' or ')

/** “3 of 8 with temperature above 27.0 °C (Air behind the racks)”. */
export const countTitle = (rule: CountRule, { beyond, known }: Counted): string =>
  `${beyond.length} of ${known}: ${lower(measureOf(rule.measure).label)} ${memberWords(rule)}`

export const countReason = (rule: CountRule, { beyond, unknown }: Counted): string =>
  `${rule.name}: ${listNames(beyond, 6)}${unknown === 0 ? '' : `; ${unknown} not heard and not counted`}.`
