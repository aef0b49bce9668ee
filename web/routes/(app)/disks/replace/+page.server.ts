import { loadReplacements } from '$lib/server/disks/disks'
import { hears } from '$lib/server/platform/hears'
import { presentOf } from '$lib/server/platform/present'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends }) => {
  hears(depends, 'alerts', 'forecasts', 'items', 'places')
  return { list: await loadReplacements(presentOf(locals)) }
}
