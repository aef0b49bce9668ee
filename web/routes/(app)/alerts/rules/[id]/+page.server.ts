import { error } from '@sveltejs/kit'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { ruleActions } from '$lib/server/rules/ruleActions'
import { loadRuleForm } from '$lib/server/rules/rules'
import type { Actions, PageServerLoad } from './$types'
import { may } from '$lib/server/platform/signedIn'

export const load: PageServerLoad = async ({ params, url, locals }) => {
  const form = await loadRuleForm(installation().db, idOf(params.id), url.searchParams)
  if (form === null) error(404, 'There is no such rule; it may have been deleted.')
  return { ...form, mayAdminister: may(locals, 'administer') }
}

export const actions: Actions = ruleActions((params) => idOf(params['id']!))
