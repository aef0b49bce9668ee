import { error } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { removeRule, saveRule, turnRule } from '$lib/server/rules/ruleActions'
import { loadRuleForm } from '$lib/server/rules/rules'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ params, url, locals }) => {
  const form = await loadRuleForm(installation().db, idOf(params.id), url.searchParams)
  if (form === null) error(404, 'There is no such rule; it may have been deleted.')
  return { ...form, mayAdminister: mayDo(locals.user!.role, 'administer') }
}

export const actions: Actions = {
  save: ({ request, locals, params }) => saveRule(request, locals.user!.name, idOf(params.id)),
  remove: ({ locals, params }) => removeRule(idOf(params.id), locals.user!.name),
  turn: ({ request, locals, params }) => turnRule(request, locals.user!.name, idOf(params.id)),
}
