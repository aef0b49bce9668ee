import { measureOf } from '#core/catalogue'
import { listRetention, writeRetention, expireSoon } from '#db/readings'
import { retention } from '$lib/server/readings/forms'
import { installation } from '$lib/server/platform/installation'
import { loadSpace } from '$lib/server/readings/space'
import type { Actions, PageServerLoad } from './$types'
import { formAction } from '$lib/server/platform/formAction'

export const load: PageServerLoad = async () => loadSpace(installation().db, Date.now())

export const actions: Actions = {
  keep: formAction({
    shape: retention,
    about: () => ({ kept: null as string | null }),
    work: async ({ measure, ...days }, { trx }) => {
      const before = (await listRetention(trx)).get(measure)
      await writeRetention(trx, measure, days)
      await expireSoon(trx)
      const was = before === undefined ? 'the default' : `${before.rawDays} and ${before.summaryDays} days`
      return {
        record: `keeps ${measure} for ${days.rawDays} days and its summaries for ${days.summaryDays}; it was ${was}`,
        done: { kept: measureOf(measure).label as string | null },
      }
    },
  }),
}
