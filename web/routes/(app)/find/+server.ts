import { json } from '@sveltejs/kit'
import { find } from '#db/gear'
import { installation } from '$lib/server/platform/installation'
import type { RequestHandler } from './$types'

export const GET: RequestHandler = async ({ url }) =>
  json(await find(installation().db, (url.searchParams.get('q') ?? '').slice(0, 100)))
