import { fail, redirect } from '@sveltejs/kit'
import { z } from 'zod'
import { hasAccounts } from '#db/accounts'
import { signIn } from '$lib/server/platform/auth'
import { passCookies } from '$lib/server/platform/cookies'
import { clientAddress } from '$lib/server/platform/doors'
import { doors, installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'

const form = z.object({ email: z.string().trim().min(1), password: z.string().min(1) })

/** Only a path of our own is followed after signing in. */
const safePath = (to: string | null): string => (to !== null && /^\/(?![/\\])/.test(to) ? to : '/')

export const load: PageServerLoad = async () => {
  if (!(await hasAccounts(installation().db))) redirect(303, '/setup')
}

export const actions: Actions = {
  default: async ({ request, url, cookies, getClientAddress }) => {
    const parsed = form.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success)
      return fail(400, { message: 'Enter your mail address and your password.', email: '' })
    const { email } = parsed.data
    const outcome = await signIn(
      {
        origin: url.origin,
        clientAddress: clientAddress(doors(), getClientAddress(), request.headers.get('x-forwarded-for')),
      },
      parsed.data,
    )
    switch (outcome.kind) {
      case 'in':
        passCookies(cookies, outcome.cookies)
        redirect(303, safePath(url.searchParams.get('to')))
      case 'wrong':
        return fail(400, { message: 'This mail address and password do not belong together.', email })
      case 'tooMany':
        return fail(429, {
          message: `Too many tries. Wait ${outcome.retrySeconds} s, then try again.`,
          email,
        })
      default:
        return outcome satisfies never
    }
  },
}
