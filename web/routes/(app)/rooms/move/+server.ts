import { error, json } from '@sveltejs/kit'
import { firstProblem, moveForm } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { move } from '$lib/server/site/moving'
import { Refused } from '$lib/server/platform/refused'
import type { RequestHandler } from './$types'

export const POST: RequestHandler = async ({ request, locals }) => {
  const parsed = moveForm.safeParse(await request.json().catch(() => null))
  if (!parsed.success) error(400, firstProblem(parsed.error))
  try {
    return json(await move(installation().db, parsed.data, locals.user!.name))
  } catch (refusal) {
    if (refusal instanceof Refused) error(409, refusal.message)
    throw refusal
  }
}
