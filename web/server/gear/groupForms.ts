import { circleOf } from '#core/gear'
import type { Db } from '#db/platform'
import { type GroupRow, holdGroups, listGear, listGroups, type NewGroup } from '#db/gear'
import type { GroupForm } from './forms.ts'
import { Refused } from '../platform/refused.ts'

/**
 * A group from its form: members by their names. Until the transaction ends no other change of groups can close a circle
 * with this one.
 * @param id of the group that is changed
 * @throws Refused when a name is nobody's, or several gear's, and when the group would contain itself
 */
export async function groupOf(
  trx: Db,
  { members, groups, tag, ...form }: GroupForm,
  id: number | null = null,
): Promise<NewGroup> {
  await holdGroups(trx)
  const gear = await listGear(trx)
  const memberIds = members.map((name) => {
    const found = gear.filter((each) => each.name.toLowerCase() === name.toLowerCase())
    if (found.length === 1) return found[0]!.id
    throw new Refused(
      found.length === 0
        ? `No gear is called “${name}”. Check the spelling, or take it out of the list.`
        : `${found.length} gear are called “${name}”. Rename them so that one is meant.`,
    )
  })
  const groupIds = innerOf(await listGroups(trx), { id, name: form.name, names: groups })
  const count = memberIds.length + groupIds.length
  if (form.rule === 'atLeast' && tag === '' && form.least > count)
    throw new Refused(`At least ${form.least} of ${count} can never be. Name more members, or ask for fewer.`)
  return { ...form, tag: tag === '' ? null : tag, memberIds, groupIds }
}

/** The groups within a group, by their names. */
function innerOf(
  all: readonly GroupRow[],
  {
    id,
    name,
    names,
  }: { readonly id: number | null; readonly name: string; readonly names: readonly string[] },
): number[] {
  const groupIds = names.map((inner) => {
    const found = all.find((group) => group.name.toLowerCase() === inner.toLowerCase())
    if (inner.toLowerCase() === name.toLowerCase())
      throw new Refused(`${name} would contain itself. Take it out of the list of groups.`)
    if (found !== undefined) return found.id
    throw new Refused(`No group is called “${inner}”. Check the spelling, or make it first.`)
  })
  const circle = circleOf([{ id: id ?? 0, name, groupIds }, ...all.filter((group) => group.id !== id)])
  if (circle !== null)
    throw new Refused(
      `${name} would contain itself: ${circle.join(' contains ')}. Take one of them out of another.`,
    )
  return groupIds
}
