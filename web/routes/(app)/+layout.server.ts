import { loadShell } from '$lib/server/shell/shell'
import { installation } from '$lib/server/platform/installation'
import type { LayoutServerLoad } from './$types'

export const load: LayoutServerLoad = async ({ locals, depends }) => {
  depends('rack:live')
  const { name, role } = locals.user!
  return { user: { name, role }, shell: await loadShell(installation().db, Date.now()) }
}
