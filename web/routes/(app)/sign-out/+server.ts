import { redirect } from '@sveltejs/kit'
import { signOut } from '$lib/server/auth'
import { passCookies } from '$lib/server/cookies'
import type { RequestHandler } from './$types'

export const POST: RequestHandler = async ({ request, cookies }) => {
  passCookies(cookies, await signOut(request.headers))
  redirect(303, '/sign-in')
}
