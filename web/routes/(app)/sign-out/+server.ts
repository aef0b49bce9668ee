import { redirect } from '@sveltejs/kit'
import { signOut } from '$lib/server/platform/auth'
import { passCookies } from '$lib/server/platform/cookies'
import type { RequestHandler } from './$types'

export const POST: RequestHandler = async ({ request, cookies }) => {
  passCookies(cookies, await signOut(request.headers))
  redirect(303, '/sign-in')
}
