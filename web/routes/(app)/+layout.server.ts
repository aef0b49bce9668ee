import { loadShell } from '$lib/server/shell/shell'
import { presentOf } from '$lib/server/platform/present'
import type { LayoutServerLoad } from './$types'
import { signedIn } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'
import { CLOCK } from '$lib/client/topics'

export const load: LayoutServerLoad = async ({ locals, depends }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places', 'callouts', 'demo', 'accounts', CLOCK)
  const { name, role } = signedIn(locals)
  return { user: { name, role }, shell: await loadShell(presentOf(locals)) }
}
