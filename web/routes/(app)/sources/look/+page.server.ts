import { listCredentials } from '#db/sources'
import { installation } from '$lib/server/platform/installation'
import { loadLook, lookThrough } from '$lib/server/sources/looking'
import type { Actions, PageServerLoad } from './$types'
import { credentialsIn, lookFields } from '$lib/server/sources/forms'
import { formAction } from '$lib/server/platform/formAction'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ url, depends }) => {
  hears(depends, 'checks')
  const { db } = installation()
  return {
    look: await loadLook(db, url.searchParams.get('look')),
    credentials: (await listCredentials(db)).filter(({ kind }) => kind.startsWith('snmp')),
  }
}

export const actions: Actions = {
  default: formAction({
    shape: lookFields,
    about: (fields) => ({ addresses: String(fields['addresses'] ?? '') }),
    work: async (fields, { trx, user, data }) => {
      const form = { ...fields, credentials: credentialsIn(data) }
      const id = await lookThrough(trx, { form, requestedBy: user.name })
      return {
        record: `looked through ${fields.addresses.slice(0, 80)}`,
        to: `/sources/look?look=${id}`,
      }
    },
  }),
}
