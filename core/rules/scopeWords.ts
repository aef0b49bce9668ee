import type { KeptRule } from './scope.ts'
import type { Scope, Where } from './rule.ts'
import { kindWords } from './words.ts'

/** Names of what a scope can name. */
export interface PlaceNames {
  readonly rooms: ReadonlyMap<number, string>
  readonly racks: ReadonlyMap<number, string>
  readonly groups: ReadonlyMap<number, string>
  readonly gear: ReadonlyMap<number, string>
  readonly parts: ReadonlyMap<number, string>
}

/** Where a scope is, in words that go on from its kinds. */
export function whereWords(where: Where, names: PlaceNames): string {
  const gone = 'what is gone'
  switch (where.kind) {
    case 'everywhere':
      return ''
    case 'tag':
      return `tagged ${where.tag}`
    case 'room':
      return `in ${names.rooms.get(where.id) ?? gone}`
    case 'rack':
      return `in rack ${names.racks.get(where.id) ?? gone}`
    case 'cluster':
      return `of the cluster ${where.name}`
    case 'group':
      return `of the group ${names.groups.get(where.id) ?? gone}`
    case 'gear':
      return `of ${names.gear.get(where.id) ?? gone}`
    case 'part':
      return names.parts.get(where.id) ?? gone
  }
}

export const scopeWords = (scope: Scope, names: PlaceNames): string =>
  scope.where.kind === 'part'
    ? whereWords(scope.where, names)
    : [kindWords(scope), whereWords(scope.where, names)].filter(Boolean).join(' ')

export const partIdsOf = (rules: readonly KeptRule[]): number[] =>
  rules.flatMap(({ rule: { scope } }) => (scope.where.kind === 'part' ? [scope.where.id] : []))
