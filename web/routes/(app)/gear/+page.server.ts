import { tagsOf } from '#core/gear'
import { keepApart, likelyPairs, mergeGear } from '#db/gear'
import { pairForm } from '$lib/server/gear/forms'
import { placeOf } from '$lib/server/gear/inventory'
import { presentOf } from '$lib/server/platform/present'
import type { Actions, PageServerLoad } from './$types'
import { formAction } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { mergeable } from '$lib/server/gear/gearChange'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ depends, locals }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places', 'items', 'series')
  const present = presentOf(locals)
  const [gear, sources, pairs, rules, states, alerts] = await Promise.all([
    present.gear(),
    present.sources(),
    likelyPairs(present.db),
    present.tagRules(),
    present.states(),
    present.openAlerts(),
  ])
  const seenBy = (ids: readonly number[]): string =>
    sources
      .filter(({ id }) => ids.includes(id))
      .map(({ name }) => name)
      .join(', ')
  const open = new Map<number, number>()
  for (const { gearId } of alerts) if (gearId !== null) open.set(gearId, (open.get(gearId) ?? 0) + 1)
  return {
    mayAdminister: may(locals, 'administer'),
    pairs: pairs.map(({ a, b, why }) => ({
      why,
      a: { id: a.id, name: a.name, kind: a.kind, seenBy: seenBy(a.sourceIds) },
      b: { id: b.id, name: b.name, kind: b.kind, seenBy: seenBy(b.sourceIds) },
    })),
    gear: gear.map((each) => ({
      id: each.id,
      name: each.name,
      kind: each.kind,
      state: states.get(each.id) ?? 'well',
      model: each.facts['model'] ?? '',
      serial: each.facts['serial'] ?? '',
      place: placeOf(each),
      tags: tagsOf(each, rules),
      openCount: open.get(each.id) ?? 0,
      sourceCount: each.sourceIds.length,
    })),
  }
}

export const actions: Actions = {
  merge: formAction({
    shape: pairForm,
    work: async ({ a, b }, { trx, user }) => {
      await mergeable(() => mergeGear(trx, { keptId: a, mergedId: b, who: user.name }))
      return { record: `made one of gear ${a} and ${b}` }
    },
  }),
  apart: formAction({
    shape: pairForm,
    work: async ({ a, b }, { trx, user }) => {
      await keepApart(trx, [a, b], user.name)
      return { record: `said that gear ${a} and ${b} are two` }
    },
  }),
}
