import { json } from '@sveltejs/kit'
import { suggestPicks } from '$lib/server/past/picks'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

/** What can be looked back at, by the words that are typed. */
export const GET: RequestHandler = async ({ url, locals }) =>
  json(await suggestPicks(presentOf(locals), (url.searchParams.get('q') ?? '').slice(0, 100)))
