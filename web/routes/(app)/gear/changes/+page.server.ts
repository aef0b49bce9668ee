import { listGearChanges } from '#db/gear'
import { installation } from '$lib/server/platform/installation'
import type { PageServerLoad } from './$types'

const MOST = 500

export const load: PageServerLoad = async ({ depends }) => {
  depends('rack:live')
  return { changes: await listGearChanges(installation().db, { limit: MOST }), most: MOST }
}
