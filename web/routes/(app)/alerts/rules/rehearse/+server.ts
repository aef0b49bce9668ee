import { error, json } from '@sveltejs/kit'
import { z } from 'zod'
import { requestRehearsal } from '#db/rules'
import { installation } from '$lib/server/platform/installation'
import { parseRule } from '$lib/server/rules/ruleActions'
import type { RequestHandler } from './$types'
import { signedIn } from '$lib/server/platform/signedIn'

const asked = z.object({
  fields: z.record(z.string(), z.string().max(400)),
  insteadOf: z.number().int().positive().nullable(),
  days: z.number().int().min(1).max(366),
  wished: z.number().min(0).max(100_000).nullable(),
})

export const POST: RequestHandler = async ({ request, locals }) => {
  const parsed = asked.safeParse(await request.json().catch(() => null))
  if (!parsed.success) error(400, 'This is no rule to rehearse.')
  const { fields, ...rest } = parsed.data
  const made = parseRule(fields)
  if (made.kind === 'problems') error(400, made.message)
  const { rule } = made
  if (rule.kind === 'text')
    error(
      400,
      'What devices say is tried on stored lines while it is typed; there is nothing more to rehearse.',
    )
  if (rule.kind === 'ahead')
    error(
      400,
      'A rule on days left is rehearsed on what is forecast, while it is typed; there is nothing of the past to rehearse.',
    )
  const { db } = installation()
  return json({ id: await requestRehearsal(db, signedIn(locals).name, { ...rest, rule }) })
}
