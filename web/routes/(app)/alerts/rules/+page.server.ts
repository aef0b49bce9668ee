import { mayDo } from '#db/accounts'
import { installation } from '$lib/server/platform/installation'
import { loadRules } from '$lib/server/rules/rules'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:rules')
  return {
    ...(await loadRules(installation().db, Date.now())),
    mayAdminister: mayDo(locals.user!.role, 'administer'),
  }
}
