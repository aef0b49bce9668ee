import { mayDo } from '#db/accounts'
import { installation } from '$lib/server/installation'
import { loadSources } from '$lib/server/sourceRows'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:live')
  const { role } = locals.user!
  return {
    sources: await loadSources(installation().db, Date.now()),
    mayCheck: mayDo(role, 'operate'),
    mayConnect: mayDo(role, 'administer'),
  }
}
