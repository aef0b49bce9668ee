import { isShowing, loadAhead } from '$lib/server/forecast/ahead'
import { hears } from '$lib/server/platform/hears'
import { presentOf } from '$lib/server/platform/present'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends, url }) => {
  hears(depends, 'forecasts', 'places', 'items')
  const asked = url.searchParams.get('show')
  const showing = isShowing(asked) ? asked : 'runs-out'
  return { showing, ...(await loadAhead(presentOf(locals), showing)) }
}
