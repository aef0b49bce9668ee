import { presentOf } from '$lib/server/platform/present'
import { loadRules } from '$lib/server/rules/rules'
import type { PageServerLoad } from './$types'
import { may } from '$lib/server/platform/signedIn'

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:rules')
  return {
    ...(await loadRules(presentOf(locals))),
    mayAdminister: may(locals, 'administer'),
  }
}
