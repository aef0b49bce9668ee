import { redirect } from '@sveltejs/kit'
import { openDirectory } from '#db/accounts'
import { atOf } from '$lib/server/accounts/at'
import { toDirectory } from '$lib/server/platform/auth'
import { passCookies } from '$lib/server/platform/cookies'
import { installation } from '$lib/server/platform/installation'
import type { RequestHandler } from './$types'

/**
 * Sends the browser to the directory, which says who it is. A link, and no form: what a form leads to may be nowhere but
 * here (`form-action`). Whoever sends somebody else here gains nothing: the answer is for this browser alone (`state`).
 */
export const GET: RequestHandler = async (event) => {
  const { db, key } = installation()
  const directory = await openDirectory(db, key)
  const there = directory === undefined ? null : await toDirectory(atOf(event), directory)
  if (there === null) redirect(303, '/sign-in?error=away')
  passCookies(event.cookies, there.cookies)
  redirect(303, there.url)
}
