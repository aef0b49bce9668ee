import { changeRole, insertAccount, listAccounts } from '#db/accounts'
import { person, roleChange } from '$lib/server/accounts/forms'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'
import { Refused } from '$lib/server/platform/refused'
import { formAction } from '$lib/server/platform/formAction'

export const load: PageServerLoad = async () => ({ people: await listAccounts(installation().db) })

const about = () => ({ about: 'people' })

export const actions: Actions = {
  addPerson: formAction({
    shape: person,
    about,
    work: async (form, { trx }) => {
      if ((await insertAccount(trx, form)) === null)
        throw new Refused(`${form.email} has an account already.`)
      return { record: `let ${form.email} in to ${form.role}` }
    },
  }),
  changeRole: formAction({
    shape: roleChange,
    about,
    work: async ({ id, role }, { trx }) => {
      if (!(await changeRole(trx, id, role)))
        throw new Refused('Somebody has to administer: this is the last account that does.')
      return { record: `gave ${id} the right to ${role}` }
    },
  }),
}
