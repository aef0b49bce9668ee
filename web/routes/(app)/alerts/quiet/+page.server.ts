import { endQuiet, insertQuiet } from '#db/alerts'
import { installation } from '$lib/server/platform/installation'
import { loadQuiets, localTime, quietOf } from '$lib/server/alerts/quiet'
import { textFields } from '$lib/server/platform/fields'
import { loadRuleOptions } from '$lib/server/rules/rules'
import { readSite } from '#db/platform'
import type { Actions, PageServerLoad } from './$types'
import { formAction, idField, noFields } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  hears(depends, 'alerts', 'quiet', 'places')
  const { db } = installation()
  const nowMs = Date.now()
  const [quiets, options, site] = await Promise.all([
    loadQuiets(db, nowMs),
    loadRuleOptions(db),
    readSite(db),
  ])
  return {
    quiets,
    options,
    asked: {
      whereKind: url.searchParams.has('gear') ? 'gear' : 'rack',
      whereValue: url.searchParams.get('gear') ?? '',
    },
    nowLocal: localTime(nowMs, site.timeZone),
    mayOperate: may(locals, 'operate'),
  }
}

export const actions: Actions = {
  add: formAction({
    shape: noFields,
    work: async (_form, { trx, user, data }) => {
      await insertQuiet(trx, await quietOf(trx, textFields(data), user.name, Date.now()))
      return undefined
    },
  }),
  end: formAction({
    shape: idField,
    work: async ({ id }, { trx, user }) => {
      await endQuiet(trx, id, { at: new Date(), by: user.name, why: null })
      return { record: `ended quiet ${id}` }
    },
  }),
}
