import { fail } from '@sveltejs/kit'
import { GEAR_KINDS } from '#core/catalogue'
import { fitsTagMatch, tagsOf } from '#core/gear'
import { mayDo } from '#db/accounts'
import { listGear, deleteTagRule, insertTagRule, listTagRules } from '#db/gear'
import { announce, recordChange } from '#db/platform'
import { listRacks, listRooms } from '#db/site'
import { listSources } from '#db/sources'
import { firstProblem, tagRuleForm } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:live')
  const { db } = installation()
  const [rules, gear, rooms, racks, sources] = await Promise.all([
    listTagRules(db),
    listGear(db),
    listRooms(db),
    listRacks(db),
    listSources(db),
  ])
  const named = (list: readonly { id: number; name: string }[], id: number | null): string | null =>
    id === null ? null : (list.find((each) => each.id === id)?.name ?? 'what is gone')
  const counts = new Map<string, number>()
  for (const each of gear) for (const tag of tagsOf(each, rules)) counts.set(tag, (counts.get(tag) ?? 0) + 1)
  return {
    rules: rules.map(({ id, tag, match }) => ({
      id,
      tag,
      words: [
        match.kind === null ? 'gear' : GEAR_KINDS[match.kind].plural,
        ...(match.name === null ? [] : [`called ${match.name}`]),
        ...(match.roomId === null ? [] : [`in ${named(rooms, match.roomId)}`]),
        ...(match.rackId === null ? [] : [`in rack ${named(racks, match.rackId)}`]),
        ...(match.sourceId === null ? [] : [`seen by ${named(sources, match.sourceId)}`]),
      ].join(' '),
      count: gear.filter((each) => fitsTagMatch(each, match)).length,
    })),
    tags: [...counts].map(([tag, count]) => ({ tag, count })).sort((a, b) => a.tag.localeCompare(b.tag)),
    rooms: rooms.map(({ id, name }) => ({ id, name })),
    racks: racks.map(({ id, name }) => ({ id, name })),
    sources: sources.map(({ id, name }) => ({ id, name })),
    mayAdminister: mayDo(locals.user!.role, 'administer'),
  }
}

export const actions: Actions = {
  add: async ({ request, locals }) => {
    const parsed = tagRuleForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    const { tag, ...match } = parsed.data
    await insertTagRule(db, tag, match)
    await recordChange(db, locals.user!.name, `made a rule for the tag ${tag}`)
    await announce(db, { topic: 'places' })
    return { message: null }
  },
  remove: async ({ request, locals }) => {
    const { db } = installation()
    await deleteTagRule(db, Number((await request.formData()).get('id')))
    await recordChange(db, locals.user!.name, 'took a rule of a tag away')
    await announce(db, { topic: 'places' })
    return { message: null }
  },
}
