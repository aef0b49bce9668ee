import { error, json } from '@sveltejs/kit'
import { takeProblem } from '#core/alerts'
import { takeAlert } from '#db/alerts'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { signedIn } from '$lib/server/platform/signedIn'
import type { RequestHandler } from './$types'

export const POST: RequestHandler = async ({ params, locals }) => {
  const { name } = signedIn(locals)
  const outcome = await takeAlert(installation().db, idOf(params.id), name, new Date())
  const problem = takeProblem(outcome)
  if (problem !== null) error(outcome.kind === 'unknown' ? 404 : 409, problem)
  return json({ by: name })
}
