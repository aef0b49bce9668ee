import { error, fail, redirect } from '@sveltejs/kit'
import { hasAccounts, insertFirstAdministrator } from '#db/accounts'
import { writeSite } from '#db/platform'
import { signIn } from '$lib/server/platform/auth'
import { passCookies } from '$lib/server/platform/cookies'
import { atOf, recordSignIn } from '$lib/server/accounts/at'
import { firstAdministrator } from '$lib/server/accounts/forms'
import { firstProblem } from '$lib/server/platform/fields'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async () => {
  if (await hasAccounts(installation().db)) redirect(303, '/')
}

export const actions: Actions = {
  default: async (event) => {
    const { request, cookies, locals } = event
    const { db } = installation()
    const values = Object.fromEntries(await request.formData())
    const parsed = firstAdministrator.safeParse(values)
    if (!parsed.success) {
      const { site = '', name = '', email = '' } = values as Record<string, string>
      return fail(400, { message: firstProblem(parsed.error), site, name, email })
    }
    const { site, ...account } = parsed.data
    if (!(await insertFirstAdministrator(db, account)))
      error(403, 'This installation has its administrator already.')
    await writeSite(db, { name: site, timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone })
    const outcome = await signIn(atOf(event), account)
    if (outcome.kind === 'in') {
      passCookies(cookies, outcome.cookies)
      await recordSignIn(
        { id: outcome.userId, name: account.name },
        locals.address,
        'as the first administrator',
      )
    }
    redirect(303, '/')
  },
}
