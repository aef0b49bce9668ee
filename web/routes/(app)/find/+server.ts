import { json } from '@sveltejs/kit'
import { find } from '#db/find'
import { installation } from '$lib/server/installation'
import type { RequestHandler } from './$types'

export const GET: RequestHandler = async ({ url }) =>
  json(await find(installation().db, (url.searchParams.get('q') ?? '').slice(0, 100)))
