import type { GearState } from './state.ts'

/** How many members must be well for the group to be: one, all, or so many. */
export const GROUP_RULES = ['any', 'all', 'atLeast'] as const
export type GroupRule = (typeof GROUP_RULES)[number]

/** What a member without data counts as: neither, so that it may leave the question open; as bad; or as well. */
export const UNKNOWN_MEMBERS = ['open', 'bad', 'well'] as const
export type UnknownMembers = (typeof UNKNOWN_MEMBERS)[number]

export interface GroupDefinition {
  readonly rule: GroupRule
  /** Of `atLeast`. */
  readonly least: number
  readonly unknown: UnknownMembers
}

export interface GroupState {
  /** `warning`: the rule holds, and a member that it could lose is bad. `noData`: it cannot be said. */
  readonly state: GearState
  readonly well: number
  readonly bad: number
  readonly unknown: number
  readonly needed: number
}

/**
 * The state of a group by its rule. A member that is quieted is as it should be. A member in warning still works: it counts as well for the rule, and keeps the group
 * from being called well.
 */
export function groupState(members: readonly GearState[], group: GroupDefinition): GroupState {
  const count = (state: GearState): number => members.filter((each) => each === state).length
  const silent = count('noData')
  const works = count('well') + count('quiet') + count('warning') + (group.unknown === 'well' ? silent : 0)
  const bad = count('critical') + (group.unknown === 'bad' ? silent : 0)
  const unknown = group.unknown === 'open' ? silent : 0
  const needed = group.rule === 'any' ? 1 : group.rule === 'all' ? members.length : group.least
  const said = { well: works, bad, unknown, needed }
  if (members.length === 0) return { state: 'noData', ...said }
  if (works >= needed)
    return { state: bad > 0 || count('warning') > 0 || silent > 0 ? 'warning' : 'well', ...said }
  return { state: works + unknown >= needed ? 'noData' : 'critical', ...said }
}

/** “2 of 3 must work; 1 works, 2 do not”. */
export function groupSentence(
  { rule, least }: Pick<GroupDefinition, 'rule' | 'least'>,
  state: GroupState,
): string {
  const total = state.well + state.bad + state.unknown
  if (total === 0) return 'Nothing belongs to it yet.'
  const need =
    rule === 'any'
      ? 'One has to work'
      : rule === 'all'
        ? `All ${total} have to work`
        : `${least} of ${total} have to work`
  const parts = [
    `${state.well === 0 ? 'none' : state.well === total ? 'all' : state.well} ${state.well === 1 ? 'does' : 'do'}`,
    ...(state.bad > 0 ? [`${state.bad} ${state.bad === 1 ? 'does' : 'do'} not`] : []),
    ...(state.unknown > 0 ? [`of ${state.unknown} nothing is heard`] : []),
  ]
  return `${need}; ${parts.join(', ')}.`
}
