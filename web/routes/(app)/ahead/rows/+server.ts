import { json } from '@sveltejs/kit'
import { aheadRows, isShowing } from '$lib/server/forecast/ahead'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

/** All rows of Ahead: the page comes with the first of them. */
export const GET: RequestHandler = async ({ locals, url }) => {
  const asked = url.searchParams.get('show')
  return json(await aheadRows(presentOf(locals), isShowing(asked) ? asked : 'runs-out'))
}
