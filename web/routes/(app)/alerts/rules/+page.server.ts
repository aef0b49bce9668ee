import { installation } from '$lib/server/platform/installation'
import { loadRules } from '$lib/server/rules/rules'
import type { PageServerLoad } from './$types'
import { may } from '$lib/server/platform/signedIn'

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:rules')
  return {
    ...(await loadRules(installation().db, Date.now())),
    mayAdminister: may(locals, 'administer'),
  }
}
