import { loadWatch, WATCH_SOURCES } from '$lib/server/shell/watch'
import { windowIn } from '$lib/server/readings/window'
import type { PageServerLoad } from './$types'
import { may } from '$lib/server/platform/signedIn'
import { hears, hearsSources } from '$lib/server/platform/hears'
import { presentOf } from '$lib/server/platform/present'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  hears(depends, ...WATCH_SOURCES.flatMap((source) => source.hears))
  const present = presentOf(locals)
  const window = windowIn(url, present.nowMs)
  const { sourceIds, ...watch } = await loadWatch(present, window)
  hearsSources(depends, sourceIds)
  return {
    ...watch,
    window,
    mayTake: may(locals, 'operate'),
  }
}
