import { callOutActions, callOutPage } from '$lib/server/callouts/callOutPage'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = ({ params, url, depends }) => {
  depends('rack:live')
  return callOutPage(Number(params.id), url.searchParams)
}

export const actions: Actions = callOutActions((params) => Number(params['id']))
