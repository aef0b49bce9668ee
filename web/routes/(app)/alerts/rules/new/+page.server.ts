import { installation } from '$lib/server/platform/installation'
import { ruleActions } from '$lib/server/rules/ruleActions'
import { loadRuleForm } from '$lib/server/rules/rules'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ url }) => {
  const form = await loadRuleForm(installation().db, null, url.searchParams)
  return { ...form!, mayAdminister: true }
}

export const actions: Actions = { save: ruleActions(() => null).save }
