import { error, json } from '@sveltejs/kit'
import { firstProblem } from '$lib/server/platform/fields'
import { moveForm } from '$lib/server/site/forms'
import { installation } from '$lib/server/platform/installation'
import { move } from '$lib/server/site/moving'
import { Refused } from '$lib/server/platform/refused'
import type { RequestHandler } from './$types'
import { signedIn } from '$lib/server/platform/signedIn'

export const POST: RequestHandler = async ({ request, locals }) => {
  const parsed = moveForm.safeParse(await request.json().catch(() => null))
  if (!parsed.success) error(400, firstProblem(parsed.error))
  try {
    return json(await move(installation().db, parsed.data, signedIn(locals).name))
  } catch (refusal) {
    if (refusal instanceof Refused) error(409, refusal.message)
    throw refusal
  }
}
