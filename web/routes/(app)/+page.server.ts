import { installation } from '$lib/server/platform/installation'
import { loadWatch } from '$lib/server/shell/watch'
import { windowIn } from '$lib/server/readings/window'
import type { PageServerLoad } from './$types'
import { may } from '$lib/server/platform/signedIn'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  depends('rack:live')
  const nowMs = Date.now()
  const window = windowIn(url, nowMs)
  return {
    ...(await loadWatch(installation().db, window, nowMs)),
    window,
    mayTake: may(locals, 'operate'),
  }
}
