import { error, json } from '@sveltejs/kit'
import { z } from 'zod'
import { cancelRehearsal, findRehearsal } from '#db/rules'
import { installation } from '$lib/server/platform/installation'
import type { RequestHandler } from './$types'

const idOf = (id: string): string => z.uuid().safeParse(id).data ?? error(404, 'There is no such rehearsal.')

export const GET: RequestHandler = async ({ params }) => {
  const state = await findRehearsal(installation().db, idOf(params.id))
  if (state === null) error(404, 'There is no such rehearsal; it is kept for an hour.')
  return json(state)
}

export const DELETE: RequestHandler = async ({ params }) => {
  await cancelRehearsal(installation().db, idOf(params.id))
  return json({})
}
