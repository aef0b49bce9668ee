import { fail, redirect } from '@sveltejs/kit'
import { findAccount } from '#db/accounts'
import { safePath } from '#core/accounts'
import { atOf, recordRefusedSignIn, recordSignIn } from '$lib/server/accounts/at'
import { code } from '$lib/server/accounts/forms'
import { signInBySecondFactor } from '$lib/server/platform/auth'
import { passCookies } from '$lib/server/platform/cookies'
import { firstProblem } from '$lib/server/platform/fields'
import { installation } from '$lib/server/platform/installation'
import type { Actions } from './$types'

export const actions: Actions = {
  default: async (event) => {
    const { request, url, cookies, locals } = event
    const parsed = code.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const outcome = await signInBySecondFactor(atOf(event), parsed.data.code)
    if (outcome.kind === 'in') {
      passCookies(cookies, outcome.cookies)
      const account = await findAccount(installation().db, outcome.userId)
      await recordSignIn(
        { id: outcome.userId, name: account?.name ?? '' },
        locals.address,
        /^\d{6}$/.test(parsed.data.code)
          ? 'with a password and a code'
          : 'with a password and a recovery code',
      )
      redirect(303, safePath(url.searchParams.get('to')))
    }
    await recordRefusedSignIn(locals.address, null, 'wrong second factor')
    if (outcome.kind === 'tooMany')
      return fail(429, { message: `Too many tries. Wait ${outcome.retrySeconds} s, then try again.` })
    return fail(400, {
      message:
        'This code does not fit now. A code holds for half a minute, a recovery code once; after ten minutes begin again with the password.',
    })
  },
}
