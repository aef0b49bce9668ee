import { installation } from '$lib/server/platform/installation'
import { loadWatch } from '$lib/server/shell/watch'
import { windowIn } from '$lib/server/readings/window'
import type { PageServerLoad } from './$types'
import { may } from '$lib/server/platform/signedIn'
import { hears, hearsSources } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places', 'rules', 'callouts')
  const nowMs = Date.now()
  const window = windowIn(url, nowMs)
  const { readerIds, ...watch } = await loadWatch(installation().db, window, nowMs)
  hearsSources(depends, readerIds)
  return {
    ...watch,
    window,
    mayTake: may(locals, 'operate'),
  }
}
