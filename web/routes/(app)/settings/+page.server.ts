import { fail } from '@sveltejs/kit'
import { changeRole, insertAccount, listAccounts } from '#db/accounts'
import { recordChange } from '#db/platform'
import { firstProblem, person, roleChange } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async () => ({ people: await listAccounts(installation().db) })

export const actions: Actions = {
  addPerson: async ({ request, locals }) => {
    const parsed = person.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { about: 'people', message: firstProblem(parsed.error) })
    const { db } = installation()
    if ((await insertAccount(db, parsed.data)) === null) {
      return fail(400, { about: 'people', message: `${parsed.data.email} has an account already.` })
    }
    await recordChange(db, locals.user!.name, `let ${parsed.data.email} in to ${parsed.data.role}`)
    return { about: 'people', message: null }
  },
  changeRole: async ({ request, locals }) => {
    const parsed = roleChange.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { about: 'people', message: firstProblem(parsed.error) })
    const { db } = installation()
    if (!(await changeRole(db, parsed.data.id, parsed.data.role))) {
      return fail(400, {
        about: 'people',
        message: 'Somebody has to administer: this is the last account that does.',
      })
    }
    await recordChange(db, locals.user!.name, `gave ${parsed.data.id} the right to ${parsed.data.role}`)
    return { about: 'people', message: null }
  },
}
