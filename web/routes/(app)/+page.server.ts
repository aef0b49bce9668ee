import { mayDo } from '#db/accounts'
import { installation } from '$lib/server/platform/installation'
import { loadWatch } from '$lib/server/shell/watch'
import { windowIn } from '$lib/server/readings/window'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  depends('rack:live')
  const nowMs = Date.now()
  const window = windowIn(url, nowMs)
  return {
    ...(await loadWatch(installation().db, window, nowMs)),
    window,
    mayTake: mayDo(locals.user!.role, 'operate'),
  }
}
