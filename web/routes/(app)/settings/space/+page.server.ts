import { measureOf } from '#core/catalogue'
import { sizeOfTexts } from '#db/logs'
import { readTextsSetting } from '#db/platform'
import { listRetention, writeRetention, expireSoon } from '#db/readings'
import { retention } from '$lib/server/readings/forms'
import { installation } from '$lib/server/platform/installation'
import { keepLines } from '$lib/server/logs/keepLines'
import { loadSpace } from '$lib/server/readings/space'
import type { Actions, PageServerLoad } from './$types'
import { formAction } from '$lib/server/platform/formAction'

export const load: PageServerLoad = async () => {
  const { db } = installation()
  const [space, kept, size] = await Promise.all([
    loadSpace(db, Date.now()),
    readTextsSetting(db),
    sizeOfTexts(db),
  ])
  return { ...space, lines: { kept, size } }
}

export const actions: Actions = {
  keepLines,
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
