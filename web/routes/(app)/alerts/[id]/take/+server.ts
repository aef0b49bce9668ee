import { error, json } from '@sveltejs/kit'
import { takeAlert } from '#db/alerts'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import type { RequestHandler } from './$types'

export const POST: RequestHandler = async ({ params, locals }) => {
  const outcome = await takeAlert(installation().db, idOf(params.id), locals.user!.name, new Date())
  switch (outcome.kind) {
    case 'taken':
      return json({ by: locals.user!.name })
    case 'alreadyTaken':
      error(409, `${outcome.by} has it already.`)
    case 'cleared':
      error(409, 'It has cleared by itself meanwhile.')
    case 'unknown':
      error(404, 'There is no such alert.')
    default:
      return outcome satisfies never
  }
}
