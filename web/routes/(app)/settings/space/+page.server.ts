import { fail } from '@sveltejs/kit'
import { measureOf } from '#core/catalogue'
import { listRetention, writeRetention, expireSoon } from '#db/readings'
import { recordChange } from '#db/platform'
import { firstProblem, retention } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { loadSpace } from '$lib/server/readings/space'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async () => loadSpace(installation().db, Date.now())

export const actions: Actions = {
  keep: async ({ request, locals }) => {
    const parsed = retention.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error), kept: null })
    const { measure, ...days } = parsed.data
    const { db } = installation()
    await db.transaction().execute(async (trx) => {
      const before = (await listRetention(trx)).get(measure)
      await writeRetention(trx, measure, days)
      const was = before === undefined ? 'the default' : `${before.rawDays} and ${before.summaryDays} days`
      await recordChange(
        trx,
        locals.user!.name,
        `keeps ${measure} for ${days.rawDays} days and its summaries for ${days.summaryDays}; it was ${was}`,
      )
      await expireSoon(trx)
    })
    return { message: null, kept: measureOf(measure).label }
  },
}
