import { error, json } from '@sveltejs/kit'
import { z } from 'zod'
import { aheadRehearsal } from '$lib/server/rules/aheadRehearsal'
import { parseRule } from '$lib/server/rules/ruleActions'
import { installation } from '$lib/server/platform/installation'
import type { RequestHandler } from './$types'

const asked = z.object({
  fields: z.record(z.string(), z.string().max(400)),
  insteadOf: z.number().int().positive().nullable(),
})

/** What a rule on days left would tell now and in the days to come. */
export const POST: RequestHandler = async ({ request }) => {
  const parsed = asked.safeParse(await request.json().catch(() => null))
  if (!parsed.success) error(400, 'This is no rule to rehearse.')
  const made = parseRule(parsed.data.fields)
  if (made.kind === 'problems') error(400, made.message)
  if (made.rule.kind !== 'ahead') error(400, 'Only a rule on days left is rehearsed on what is forecast.')
  const { rule } = made
  return json(await aheadRehearsal(installation().db, { rule, insteadOf: parsed.data.insteadOf }, Date.now()))
}
