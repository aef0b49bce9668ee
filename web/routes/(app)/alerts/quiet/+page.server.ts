import { endQuiet, insertQuiet } from '#db/alerts'
import { loadQuiets, localTime, namedIn, previewQuiet, quietOf } from '$lib/server/alerts/quiet'
import { textFields } from '$lib/server/platform/fields'
import { loadRuleOptions } from '$lib/server/rules/rules'
import type { Actions, PageServerLoad } from './$types'
import { presentOf } from '$lib/server/platform/present'
import { formAction, idField, noFields } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  hears(depends, 'alerts', 'quiet', 'places')
  const present = presentOf(locals)
  const { db, nowMs } = present
  const mayOperate = may(locals, 'operate')
  const [quiets, options, site, preview] = await Promise.all([
    loadQuiets(db, nowMs),
    loadRuleOptions(db),
    present.site(),
    mayOperate ? previewQuiet(present, url.searchParams) : null,
  ])
  return {
    quiets,
    options,
    preview,
    asked: {
      whereKind: url.searchParams.get('whereKind') ?? 'rack',
      whereValue: url.searchParams.get('whereValue') ?? '',
    },
    nowLocal: localTime(nowMs, site.timeZone),
    mayOperate,
    mayAdminister: may(locals, 'administer'),
  }
}

export const actions: Actions = {
  add: formAction({
    shape: noFields,
    work: async (_form, { trx, user, data }) => {
      const named = namedIn(data.getAll('named'))
      await insertQuiet(trx, await quietOf(trx, textFields(data), user, Date.now(), named))
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
