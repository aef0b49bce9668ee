import { fail } from '@sveltejs/kit'
import { z } from 'zod'
import { newToken, seal } from '#db/sources'
import { deleteHeartbeat, insertHeartbeat, writeAlarm } from '#db/callouts'
import { firstProblem } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { textFields } from '$lib/server/rules/ruleActions'
import { loadSelfMonitoring } from '$lib/server/callouts/selfMonitoring'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = ({ depends }) => {
  depends('rack:live')
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
const taken = (name: string) =>
  fail(400, { about: 'beats', message: `There is a heartbeat of «${name}» already.`, token: null })

export const actions: Actions = {
  alarm: async ({ request, locals }) => {
    const fields = textFields(await request.formData())
    const ids = (prefix: string): Record<string, number> =>
      Object.fromEntries(
        Object.entries(fields).flatMap(([name, value]) =>
          name.startsWith(prefix) && Number(value) > 0 ? [[name.slice(prefix.length), Number(value)]] : [],
        ),
      )
    const database = Number(fields['database'] ?? '')
    await writeAlarm(
      installation().db,
      { collectors: ids('collector '), database: database > 0 ? database : null, channels: ids('channel ') },
      locals.user!.name,
    )
    return { about: 'alarm', message: null, token: null }
  },
  out: async ({ request, locals }) => {
    const parsed = outForm.safeParse(textFields(await request.formData()))
    if (!parsed.success)
      return fail(400, { about: 'beats', message: firstProblem(parsed.error), token: null })
    const { name, seconds, url, password } = parsed.data
    const { db, key } = installation()
    const sealedSecret = password === '' ? null : seal(key, { password })
    const beat = { direction: 'out', name, url, sealedSecret, intervalSeconds: seconds } as const
    if ((await insertHeartbeat(db, beat, locals.user!.name)) === null) return taken(name)
    return { about: 'beats', message: null, token: null }
  },
  in: async ({ request, locals }) => {
    const parsed = beatForm.safeParse(textFields(await request.formData()))
    if (!parsed.success)
      return fail(400, { about: 'beats', message: firstProblem(parsed.error), token: null })
    const { name, seconds } = parsed.data
    const token = newToken()
    const beat = { direction: 'in', name, token, intervalSeconds: seconds } as const
    if ((await insertHeartbeat(installation().db, beat, locals.user!.name)) === null) return taken(name)
    return { about: 'beats', message: null, token }
  },
  end: async ({ request, locals }) => {
    const id = Number(textFields(await request.formData())['id'])
    await deleteHeartbeat(installation().db, id, locals.user!.name)
    return { about: 'beats', message: null, token: null }
  },
}
