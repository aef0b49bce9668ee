import { error, json } from '@sveltejs/kit'
import { requestCheck } from '#db/sources'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import type { RequestHandler } from './$types'

export const POST: RequestHandler = async ({ params }) => {
  const isKnown = await requestCheck(installation().db, idOf(params.id), new Date())
  if (!isKnown) error(404, 'There is no such source.')
  return json({ asked: true })
}
