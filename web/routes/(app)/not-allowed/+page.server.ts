import { asRole } from '#core/accounts'
import { signedIn } from '$lib/server/platform/signedIn'
import type { PageServerLoad } from './$types'

/** Where a page or a form leads that an account has no right to. */
export const load: PageServerLoad = ({ url, locals }) => ({
  needs: asRole(url.searchParams.get('needs')),
  may: signedIn(locals).role,
})
