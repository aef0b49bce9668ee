import { fail, redirect } from '@sveltejs/kit'
import { findAccountLink, useAccountLink } from '#db/accounts'
import { actAs, recordChange, transact } from '#db/platform'
import { chosenPassword } from '$lib/server/accounts/forms'
import { firstProblem } from '$lib/server/platform/fields'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'

const GONE =
  'This link was used already, is too old, or was taken back. Ask whoever sent it to you for a new one.'

export const load: PageServerLoad = async ({ params }) => {
  const link = await findAccountLink(installation().db, params.token)
  return { link: link === undefined ? null : { name: link.name, email: link.email, purpose: link.purpose } }
}

export const actions: Actions = {
  default: async ({ request, params, locals }) => {
    const parsed = chosenPassword.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const used = await transact(installation().db, async (trx) => {
      const link = await useAccountLink(trx, params.token, parsed.data.password)
      if (link === undefined) return undefined
      await actAs(trx, { id: link.userId, address: locals.address })
      await recordChange(
        trx,
        link.name,
        link.purpose === 'invite' ? 'took up the invitation' : 'chose a new password by a link',
      )
      return link
    })
    if (used === undefined) return fail(400, { message: GONE })
    redirect(303, '/sign-in?chosen')
  },
}
