import { loadCallOuts } from '$lib/server/callouts/callOuts'
import { installation } from '$lib/server/platform/installation'
import type { PageServerLoad } from './$types'
import { may } from '$lib/server/platform/signedIn'

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:live')
  return {
    ...(await loadCallOuts(installation().db, Date.now())),
    mayAdminister: may(locals, 'administer'),
  }
}
