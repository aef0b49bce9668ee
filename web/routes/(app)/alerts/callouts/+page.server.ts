import { mayDo } from '#db/accounts'
import { loadCallOuts } from '$lib/server/callouts/callOuts'
import { installation } from '$lib/server/platform/installation'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:live')
  return {
    ...(await loadCallOuts(installation().db, Date.now())),
    mayAdminister: mayDo(locals.user!.role, 'administer'),
  }
}
