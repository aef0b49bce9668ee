import type { Db } from '#db/platform'
import { listGear } from '#db/gear'
import type { NewGroup } from '#db/gear'
import type { GroupForm } from './forms.ts'
import { Refused } from '../platform/refused.ts'

/**
 * A group from its form: members by their names.
 * @throws Refused when a name is nobody's, or several gear's
 */
export async function groupOf(db: Db, { members, tag, ...form }: GroupForm): Promise<NewGroup> {
  const gear = await listGear(db)
  const memberIds = members.map((name) => {
    const found = gear.filter((each) => each.name.toLowerCase() === name.toLowerCase())
    if (found.length === 1) return found[0]!.id
    throw new Refused(
      found.length === 0
        ? `No gear is called “${name}”. Check the spelling, or take it out of the list.`
        : `${found.length} gear are called “${name}”. Rename them so that one is meant.`,
    )
  })
  if (form.rule === 'atLeast' && tag === '' && form.least > memberIds.length)
    throw new Refused(
      `At least ${form.least} of ${memberIds.length} can never be. Name more members, or ask for fewer.`,
    )
  return { ...form, tag: tag === '' ? null : tag, memberIds }
}
