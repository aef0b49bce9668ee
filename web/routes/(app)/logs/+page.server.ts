import { installation } from '$lib/server/platform/installation'
import { loadLogs } from '$lib/server/logs/logs'
import { windowIn } from '$lib/server/readings/window'
import type { PageServerLoad } from './$types'
import { may } from '$lib/server/platform/signedIn'
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
