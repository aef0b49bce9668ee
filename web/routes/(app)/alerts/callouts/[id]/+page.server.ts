import { idOf } from '$lib/server/platform/params'
import { callOutActions, callOutPage } from '$lib/server/callouts/callOutPage'
import type { Actions, PageServerLoad } from './$types'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = ({ params, url, depends }) => {
  hears(depends, 'callouts', 'places')
  return callOutPage(idOf(params.id), url.searchParams)
}

export const actions: Actions = callOutActions((params) => idOf(params['id'] ?? ''))
