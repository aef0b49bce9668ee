import { loadCallOuts } from '$lib/server/callouts/callOuts'
import { installation } from '$lib/server/platform/installation'
import type { PageServerLoad } from './$types'
import { may } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ locals, depends }) => {
  hears(depends, 'callouts', 'alerts', 'places')
  return {
    ...(await loadCallOuts(installation().db, Date.now())),
    mayAdminister: may(locals, 'administer'),
  }
}
