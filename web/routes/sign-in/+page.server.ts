import { fail, redirect } from '@sveltejs/kit'
import { z } from 'zod'
import { accountOfEmail, hasAccounts, readDirectorySettings } from '#db/accounts'
import { safePath } from '#core/accounts'
import { atOf, recordRefusedSignIn, recordSignIn } from '$lib/server/accounts/at'
import { type SignInOutcome, signIn } from '$lib/server/platform/auth'
import { passCookies } from '$lib/server/platform/cookies'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'

const form = z.object({ email: z.string().trim().min(1), password: z.string().min(1) })

export const load: PageServerLoad = async ({ url }) => {
  const { db } = installation()
  if (!(await hasAccounts(db))) redirect(303, '/setup')
  const directory = await readDirectorySettings(db)
  return {
    directory: directory?.isOn === true ? directory.name : null,
    hasChosen: url.searchParams.has('chosen'),
    refused: REFUSALS[url.searchParams.get('error') ?? ''] ?? null,
  }
}

const REFUSALS: Readonly<Record<string, string>> = {
  'no-group': 'Your directory knows you, and none of your groups may come in here. Ask an administrator.',
  directory: 'The directory did not let you in. Try again, or sign in with a password.',
  away: 'The directory does not answer now. Try again, or sign in with a password.',
}

type Refusal = Exclude<SignInOutcome, { readonly kind: 'in' | 'secondFactor' }>

/** What whoever was not let in reads. */
function sentenceOf(outcome: Refusal): string {
  switch (outcome.kind) {
    case 'wrong':
      return 'This mail address and password do not belong together.'
    case 'off':
      return 'This account is switched off. Ask an administrator.'
    case 'tooMany':
      return `Too many tries. Wait ${outcome.retrySeconds} s, then try again.`
    default:
      return outcome satisfies never
  }
}

const WHY: Readonly<Record<Refusal['kind'], string>> = {
  wrong: 'wrong mail address or password',
  off: 'the account is switched off',
  tooMany: 'too many tries',
}

export const actions: Actions = {
  default: async (event) => {
    const { request, url, cookies, locals } = event
    const parsed = form.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success)
      return fail(400, { message: 'Enter your mail address and your password.', email: '' })
    const { email } = parsed.data
    const outcome = await signIn(atOf(event), parsed.data)
    const to = safePath(url.searchParams.get('to'))
    if (outcome.kind === 'secondFactor') {
      passCookies(cookies, outcome.cookies)
      redirect(303, `/sign-in/code?to=${encodeURIComponent(to)}`)
    }
    if (outcome.kind === 'in') {
      passCookies(cookies, outcome.cookies)
      const account = await accountOfEmail(installation().db, email)
      await recordSignIn(
        { id: outcome.userId, name: account?.name ?? email },
        locals.address,
        'with a password',
      )
      redirect(303, to)
    }
    await recordRefusedSignIn(locals.address, email, WHY[outcome.kind])
    return fail(outcome.kind === 'tooMany' ? 429 : 400, { message: sentenceOf(outcome), email })
  },
}
