import type { GearKind } from '../catalogue/index.ts'
import { type GroupDefinition, groupState, type GroupState } from './group.ts'
import type { GearState } from './state.ts'

/** A group as others contain it. */
export interface Containing {
  readonly id: number
  readonly name: string
  /** Groups that belong to it. */
  readonly groupIds: readonly number[]
}

/** The names along a circle of groups that contain each other, from a group back to itself; `null` when there is none. */
export function circleOf(groups: readonly Containing[]): string[] | null {
  const byId = new Map(groups.map((group) => [group.id, group]))
  const done = new Set<number>()
  const path: Containing[] = []
  const visit = (id: number): string[] | null => {
    const begun = path.findIndex((each) => each.id === id)
    const group = byId.get(id)
    if (begun >= 0) return [...path.slice(begun), path[begun]!].map(({ name }) => name)
    if (group === undefined || done.has(id)) return null
    path.push(group)
    for (const inner of group.groupIds) {
      const circle = visit(inner)
      if (circle !== null) return circle
    }
    path.pop()
    done.add(id)
    return null
  }
  for (const { id } of groups) {
    const circle = visit(id)
    if (circle !== null) return circle
  }
  return null
}

/** By group, all groups that contain it, whether directly or through others; itself not. */
export function containersOf(
  groups: readonly Omit<Containing, 'name'>[],
): ReadonlyMap<number, ReadonlySet<number>> {
  const direct = new Map<number, number[]>()
  for (const { id, groupIds } of groups)
    for (const inner of groupIds) direct.set(inner, [...(direct.get(inner) ?? []), id])
  return new Map(
    groups.map(({ id }) => {
      const found = new Set<number>()
      const open = [...(direct.get(id) ?? [])]
      for (let next = open.pop(); next !== undefined; next = open.pop())
        if (next !== id && !found.has(next)) {
          found.add(next)
          open.push(...(direct.get(next) ?? []))
        }
      return [id, found]
    }),
  )
}

/** A group with what directly belongs to it. */
export interface GroupMembers extends Containing, GroupDefinition {
  /** How it is called among people who do not read hardware; empty: as the group is. */
  readonly plain: string
  readonly members: readonly MemberGear[]
}

export interface MemberGear {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly state: GearState
}

/** A group with its state, and its groups with theirs. */
export interface GroupNode extends GroupMembers {
  readonly state: GroupState
  readonly groups: readonly GroupNode[]
}

/** Groups with their states, from the innermost out. What would contain itself is left out there. */
export function groupTree(groups: readonly GroupMembers[]): ReadonlyMap<number, GroupNode> {
  const byId = new Map(groups.map((group) => [group.id, group]))
  const made = new Map<number, GroupNode>()
  const make = (group: GroupMembers, within: readonly number[]): GroupNode => {
    const known = made.get(group.id)
    if (known !== undefined) return known
    const path = [...within, group.id]
    const inner = group.groupIds.flatMap((id) => {
      const found = path.includes(id) ? undefined : byId.get(id)
      return found === undefined ? [] : [make(found, path)]
    })
    const states = [...group.members, ...inner.map(({ state }) => state)].map(({ state }) => state)
    const node = { ...group, state: groupState(states, group), groups: inner }
    made.set(group.id, node)
    return node
  }
  for (const group of groups) make(group, [])
  return made
}
