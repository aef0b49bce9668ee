import { error } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import { loadGearPage } from '$lib/server/gearPage'
import { installation } from '$lib/server/installation'
import { idOf } from '$lib/server/params'
import { seriesIn } from '$lib/server/seriesParam'
import { windowIn } from '$lib/server/window'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
  depends('rack:live')
  const nowMs = Date.now()
  const window = windowIn(url, nowMs)
  const view = await loadGearPage(installation().db, idOf(params.id), seriesIn(url), window, nowMs)
  if (view === null) error(404, 'There is no such gear.')
  return { ...view, window, mayOperate: mayDo(locals.user!.role, 'operate') }
}
