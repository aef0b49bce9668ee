import { tagsOf } from '#core/gear'
import { listGear, listTagRules, keepApart, likelyPairs, mergeGear } from '#db/gear'
import { listSources } from '#db/sources'
import { silentSourceIds, stateOf } from '$lib/server/gear/gearStates'
import { pairForm } from '$lib/server/gear/forms'
import { placeOf } from '$lib/server/gear/inventory'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'
import { formAction } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { mergeable } from '$lib/server/gear/gearChange'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ depends, locals }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places', 'items', 'series')
  const { db } = installation()
  const [gear, sources, pairs, rules] = await Promise.all([
    listGear(db),
    listSources(db),
    likelyPairs(db),
    listTagRules(db),
  ])
  const seenBy = (ids: readonly number[]): string =>
    sources
      .filter(({ id }) => ids.includes(id))
      .map(({ name }) => name)
      .join(', ')
  const silent = silentSourceIds(sources, Date.now())
  return {
    mayAdminister: may(locals, 'administer'),
    pairs: pairs.map(({ a, b, why }) => ({
      why,
      a: { id: a.id, name: a.name, kind: a.kind, seenBy: seenBy(a.sourceIds) },
      b: { id: b.id, name: b.name, kind: b.kind, seenBy: seenBy(b.sourceIds) },
    })),
    gear: gear.map((each) => {
      return {
        id: each.id,
        name: each.name,
        kind: each.kind,
        state: stateOf(each, silent),
        model: each.facts['model'] ?? '',
        serial: each.facts['serial'] ?? '',
        place: placeOf(each),
        tags: tagsOf(each, rules),
        openCount: each.openSeverities.length,
        sourceCount: each.sourceIds.length,
      }
    }),
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
