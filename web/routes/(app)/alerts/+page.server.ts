import { acceptAlert, findAlert, takeAlert, insertQuiet } from '#db/alerts'
import { loadAlerts } from '$lib/server/alerts/alerts'
import { presentOf } from '$lib/server/platform/present'
import { windowIn } from '$lib/server/readings/window'
import type { Actions, PageServerLoad } from './$types'
import { Refused } from '$lib/server/platform/refused'
import { formAction, noFields } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { acceptForm, narrowestOf, quietOf, quietWords, stateOfAlert } from '$lib/server/alerts/quiet'
import { takenSentence } from '#core/alerts'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  hears(depends, 'alerts', 'quiet', 'rules', 'callouts')
  const present = presentOf(locals)
  return {
    ...(await loadAlerts(present, url.searchParams, windowIn(url, present.nowMs))),
    nowMs: present.nowMs,
    mayOperate: may(locals, 'operate'),
  }
}

const idsOf = (data: FormData): number[] => {
  const ids = data
    .getAll('id')
    .map(Number)
    .filter((id) => Number.isInteger(id) && id > 0 && id < 1e9)
    .slice(0, 500)
  if (ids.length === 0) throw new Refused('Mark the alerts first.')
  return ids
}

export const actions: Actions = {
  take: formAction({
    shape: noFields,
    work: async (_form, { trx, user, data }) => {
      const outcomes = []
      for (const id of idsOf(data)) outcomes.push(await takeAlert(trx, id, user.name, new Date()))
      return { done: { said: takenSentence(outcomes) } }
    },
  }),
  accept: formAction({
    shape: acceptForm,
    work: async ({ reason }, { trx, user, data }) => {
      const ids = idsOf(data)
      let accepted = 0
      for (const id of ids) {
        const by = { who: user.name, reason, at: new Date(), state: await stateOfAlert(trx, id) }
        if ((await acceptAlert(trx, id, by)).kind === 'accepted') accepted += 1
      }
      const gone = ids.length - accepted
      return {
        done: {
          said:
            gone === 0 ? null : `${accepted} of ${ids.length} accepted: the others have cleared meanwhile.`,
        },
      }
    },
  }),
  quiet: formAction({
    shape: quietWords,
    work: async ({ reason, length }, { trx, user, data }) => {
      for (const id of idsOf(data)) {
        const alert = await findAlert(trx, id)
        if (alert === undefined) continue
        const scope = { ...narrowestOf(alert), ruleKey: alert.ruleKey }
        await insertQuiet(trx, await quietOf(trx, { ...scope, reason, length }, user, Date.now()))
      }
      return undefined
    },
  }),
}
