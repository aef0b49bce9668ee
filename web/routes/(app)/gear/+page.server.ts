import { tagsOf } from '#core/gear'
import { fail } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import { listGear, listTagRules, CannotMerge, keepApart, likelyPairs, mergeGear } from '#db/gear'
import { recordChange } from '#db/platform'
import { listSources } from '#db/sources'
import { silentSourceIds, stateOf } from '$lib/server/gear/gearStates'
import { firstProblem, pairForm } from '$lib/server/platform/forms'
import { placeOf } from '$lib/server/gear/inventory'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ depends, locals }) => {
  depends('rack:live')
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
    mayAdminister: mayDo(locals.user!.role, 'administer'),
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
  merge: async ({ request, locals }) => {
    const parsed = pairForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    const { a, b } = parsed.data
    try {
      await mergeGear(db, { keptId: a, mergedId: b, who: locals.user!.name })
    } catch (refusal) {
      if (refusal instanceof CannotMerge) return fail(400, { message: refusal.message })
      throw refusal
    }
    await recordChange(db, locals.user!.name, `made one of gear ${a} and ${b}`)
    return { message: null }
  },
  apart: async ({ request, locals }) => {
    const parsed = pairForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    await keepApart(db, [parsed.data.a, parsed.data.b], locals.user!.name)
    await recordChange(db, locals.user!.name, `said that gear ${parsed.data.a} and ${parsed.data.b} are two`)
    return { message: null }
  },
}
