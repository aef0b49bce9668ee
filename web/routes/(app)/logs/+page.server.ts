import { fail } from '@sveltejs/kit'
import { recordChange, textsSetting, writeTextsSetting } from '#db/platform'
import { installation } from '$lib/server/platform/installation'
import { loadLogs } from '$lib/server/logs/logs'
import { textFields } from '$lib/server/platform/fields'
import { windowIn } from '$lib/server/readings/window'
import type { Actions, PageServerLoad } from './$types'
import { may, signedIn } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  hears(depends, 'texts')
  const nowMs = Date.now()
  const window = windowIn(url, nowMs)
  return {
    ...(await loadLogs(installation().db, url.searchParams, window)),
    mayAdminister: may(locals, 'administer'),
  }
}

export const actions: Actions = {
  keep: async ({ request, locals }) => {
    const fields = textFields(await request.formData())
    const parsed = textsSetting.safeParse({
      days: Number(fields['days']),
      megabytes: Number(fields['megabytes']),
    })
    if (!parsed.success)
      return fail(400, { message: 'Lines are kept for 1 to 3660 days, and in 10 to 1 000 000 MB.' })
    const { db } = installation()
    await writeTextsSetting(db, parsed.data)
    await recordChange(
      db,
      signedIn(locals).name,
      `keeps what devices say for ${parsed.data.days} days and in ${parsed.data.megabytes} MB at most`,
    )
    return { message: null }
  },
}
