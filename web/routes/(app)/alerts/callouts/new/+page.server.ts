import { callOutActions, callOutPage } from '$lib/server/callouts/callOutPage'
import type { Actions, PageServerLoad } from './$types'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = ({ url, depends }) => {
  hears(depends, 'callouts', 'places')
  return callOutPage(null, url.searchParams)
}

export const actions: Actions = callOutActions(() => null)
