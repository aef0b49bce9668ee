import { readDirectorySettings, writeDirectory } from '#db/accounts'
import { directoryForm } from '$lib/server/accounts/forms'
import { BACK_FROM_DIRECTORY } from '$lib/server/platform/auth'
import { formAction } from '$lib/server/platform/formAction'
import { installation } from '$lib/server/platform/installation'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ url }) => ({
  directory: (await readDirectorySettings(installation().db)) ?? null,
  back: `${url.origin}${BACK_FROM_DIRECTORY}`,
})

export const actions: Actions = {
  save: formAction({
    shape: directoryForm,
    work: async ({ clientSecret, see, operate, administer, ...form }, { trx }) => {
      const was = await readDirectorySettings(trx)
      if (clientSecret === '' && was === undefined) throw new Refused('Enter the client secret.')
      // What is kept goes where it was entered for, and nowhere else.
      if (clientSecret === '' && was !== undefined && was.issuer !== form.issuer)
        throw new Refused('The issuer is another one: enter the client secret for it, too.')
      if (form.isOn && [...see, ...operate, ...administer].length === 0)
        throw new Refused('Say which groups may come in: without any, nobody may.')
      const settings = { ...form, roles: { see, operate, administer } }
      await writeDirectory(trx, installation().key, settings, clientSecret === '' ? null : clientSecret)
      return {
        record: `${was === undefined ? 'set' : 'changed'} the directory ${form.name}, ${form.isOn ? 'on' : 'off'}`,
        done: {
          done: form.isOn
            ? `From now on people sign in with ${form.name}, too.`
            : 'Kept; it is switched off.',
        },
      }
    },
  }),
}
