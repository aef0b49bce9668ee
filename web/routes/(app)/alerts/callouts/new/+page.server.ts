import { callOutActions, callOutPage } from '$lib/server/callouts/callOutPage'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = ({ url, depends }) => {
  depends('rack:live')
  return callOutPage(null, url.searchParams)
}

export const actions: Actions = callOutActions(() => null)
