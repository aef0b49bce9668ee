import { listGearChanges } from '#db/gear'
import { installation } from '$lib/server/platform/installation'
import type { PageServerLoad } from './$types'
import { hears } from '$lib/server/platform/hears'

const MOST = 500

export const load: PageServerLoad = async ({ depends }) => {
  hears(depends, 'places', 'items', 'series')
  return { changes: await listGearChanges(installation().db, { limit: MOST }), most: MOST }
}
