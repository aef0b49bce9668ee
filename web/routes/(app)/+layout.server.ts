import { loadShell } from '$lib/server/shell/shell'
import { installation } from '$lib/server/platform/installation'
import type { LayoutServerLoad } from './$types'
import { signedIn } from '$lib/server/platform/signedIn'

export const load: LayoutServerLoad = async ({ locals, depends }) => {
  depends('rack:live')
  const { name, role } = signedIn(locals)
  return { user: { name, role }, shell: await loadShell(installation().db, Date.now()) }
}
