import { z } from 'zod'
import { newToken, seal } from '#db/sources'
import { deleteHeartbeat, insertHeartbeat, writeAlarm } from '#db/callouts'
import { installation } from '$lib/server/platform/installation'
import { textFields } from '$lib/server/platform/fields'
import { loadSelfMonitoring, alarmOf } from '$lib/server/callouts/selfMonitoring'
import type { Actions, PageServerLoad } from './$types'
import { Refused } from '$lib/server/platform/refused'
import { formAction, idField, noFields } from '$lib/server/platform/formAction'
import { hears } from '$lib/server/platform/hears'
import { CLOCK } from '$lib/client/topics'

export const load: PageServerLoad = ({ depends }) => {
  hears(depends, 'callouts', 'places', CLOCK)
  return loadSelfMonitoring(installation().db, Date.now())
}

const beatForm = z.object({
  name: z.string().trim().min(1, 'Say whom the heartbeat goes to, or comes from').max(60),
  seconds: z.coerce
    .number('The interval is a number of seconds')
    .int()
    .min(5, 'A heartbeat is at least 5 s apart')
    .max(86_400, 'A heartbeat comes at least once a day'),
})
const outForm = beatForm.extend({
  url: z.url({ protocol: /^https?$/, error: 'Enter the address, beginning with http:// or https://' }),
  password: z.string(),
})

const about = (name: string) => () => ({ about: name, token: null as string | null })
const taken = (name: string) => new Refused(`There is a heartbeat of “${name}” already.`)

export const actions: Actions = {
  alarm: formAction({
    shape: noFields,
    about: about('alarm'),
    work: async (_form, { trx, user, data }) => {
      await writeAlarm(trx, alarmOf(textFields(data)), user.name)
      return undefined
    },
  }),
  out: formAction({
    shape: outForm,
    about: about('beats'),
    work: async ({ name, seconds, url, password }, { trx, user }) => {
      const sealedSecret = password === '' ? null : seal(installation().key, { password })
      const beat = { direction: 'out', name, url, sealedSecret, intervalSeconds: seconds } as const
      if ((await insertHeartbeat(trx, beat, user.name)) === null) throw taken(name)
      return undefined
    },
  }),
  in: formAction({
    shape: beatForm,
    about: about('beats'),
    work: async ({ name, seconds }, { trx, user }) => {
      const token = newToken()
      const beat = { direction: 'in', name, token, intervalSeconds: seconds } as const
      if ((await insertHeartbeat(trx, beat, user.name)) === null) throw taken(name)
      return { done: { token } }
    },
  }),
  end: formAction({
    shape: idField,
    about: about('beats'),
    work: async ({ id }, { trx, user }) => {
      await deleteHeartbeat(trx, id, user.name)
      return undefined
    },
  }),
}
