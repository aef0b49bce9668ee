import { credentialUses, deleteCredential } from '#db/sources'
import { credentialForm } from '$lib/server/sources/forms'
import { installation } from '$lib/server/platform/installation'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'
import { formAction, idField } from '$lib/server/platform/formAction'
import { keepCredential } from '$lib/server/sources/secretFields'

export const load: PageServerLoad = async () => ({ credentials: await credentialUses(installation().db) })

const about = (fields: Readonly<Record<string, unknown>>) => ({
  id: (Number(fields['id']) > 0 ? Number(fields['id']) : null) as number | null,
  done: null as string | null,
})

export const actions: Actions = {
  keep: formAction({
    shape: credentialForm,
    about,
    taken: ({ name }) => `There is a credential called ${name} already.`,
    work: async (form, { trx }) => {
      const { what, isNew } = await keepCredential(trx, installation().key, form)
      return {
        record: `${isNew ? 'added' : 'changed'} credential ${form.name}`,
        done: { done: `${form.name} ${what}.` },
      }
    },
  }),
  remove: formAction({
    shape: idField,
    about,
    work: async ({ id }, { trx }) => {
      if (!(await deleteCredential(trx, id)))
        throw new Refused('Sources use it still. Give them another credential first.')
      return {
        record: `removed credential ${id}`,
        done: { id: null, done: 'It is removed.' },
      }
    },
  }),
}
