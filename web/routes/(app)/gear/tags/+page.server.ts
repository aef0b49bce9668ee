import { GEAR_KINDS } from '#core/catalogue'
import { fitsTagMatch, tagsOf } from '#core/gear'
import { listGear, deleteTagRule, insertTagRule, listTagRules } from '#db/gear'
import { listRacks, listRooms } from '#db/site'
import { listSources } from '#db/sources'
import { tagRuleForm } from '$lib/server/gear/forms'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'
import { formAction, idField } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ locals, depends }) => {
  hears(depends, 'places', 'sources', 'series')
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
    mayAdminister: may(locals, 'administer'),
  }
}

export const actions: Actions = {
  add: formAction({
    shape: tagRuleForm,
    work: async ({ tag, ...match }, { trx }) => {
      await insertTagRule(trx, tag, match)
      return { record: `made a rule for the tag ${tag}`, tells: [{ topic: 'places' }] }
    },
  }),
  remove: formAction({
    shape: idField,
    work: async ({ id }, { trx }) => {
      await deleteTagRule(trx, id)
      return { record: 'took a rule of a tag away', tells: [{ topic: 'places' }] }
    },
  }),
}
