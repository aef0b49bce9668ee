import { listMappings, listCredentials } from '#db/sources'
import { listRacks } from '#db/site'
import {
  checkFromForm,
  loadCheck,
  mapAndCheck,
  saveChecked,
  trustAndCheck,
} from '$lib/server/sources/connecting'
import { checkForm, mapForm, newSender, saveForm, trustForm } from '$lib/server/sources/forms'
import { installation } from '$lib/server/platform/installation'
import { addSender } from '$lib/server/sources/newSender'
import type { Actions, PageServerLoad } from './$types'
import { formAction } from '$lib/server/platform/formAction'
import { DESCRIPTORS } from '#protocols/registry'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ url, depends }) => {
  hears(depends, 'checks')
  const { db, receiverPort } = installation()
  const asked = url.searchParams.get('check')
  const check = asked === null ? null : await loadCheck(db, asked)
  return {
    check,
    protocols: DESCRIPTORS.filter(({ isPolled }) => isPolled),
    prefill: check === null ? prefillOf(url) : null,
    hasGone: asked !== null && check === null,
    credentials: await listCredentials(db),
    mappings: (await listMappings(db)).map(({ id, name, protocol }) => ({ id, name, protocol })),
    racks: await listRacks(db),
    receiverPort,
  }
}

/** What another screen has found out already. */
function prefillOf(url: URL) {
  const of = (name: string): string => (url.searchParams.get(name) ?? '').slice(0, 300)
  const address = of('address')
  if (address === '') return null
  const credential = Number(of('credential'))
  return {
    id: '',
    protocol: of('protocol') || DESCRIPTORS[0]!.protocol,
    address,
    settings: Object.fromEntries(
      DESCRIPTORS.flatMap(({ fields }) => fields).map(({ name, setting }) => [setting ?? name, of(name)]),
    ) as Record<string, unknown>,
    credentialId: credential > 0 ? credential : null,
    hasOwnSecret: false,
  }
}

const about = (name: 'address' | 'trust' | 'map' | 'save' | 'push') => () => ({
  about: name,
  token: null as string | null,
  name: null as string | null,
})
const TAKEN = 'A source, a credential or a mapping of this name is there already. Choose another name.'
const checked = (id: string) => ({ to: `/sources/connect?check=${id}` })

export const actions: Actions = {
  check: formAction({
    shape: checkForm,
    about: about('address'),
    work: async (form, { trx, user }) =>
      checked(await checkFromForm(trx, installation().key, { form, requestedBy: user.name })),
  }),
  trust: formAction({
    shape: trustForm,
    about: about('trust'),
    work: async ({ check: id, trust }, { trx, user }) =>
      checked(await trustAndCheck(trx, installation().key, { id, trust, requestedBy: user.name })),
  }),
  map: formAction({
    shape: mapForm,
    about: about('map'),
    work: async ({ check: id, map }, { trx, user }) =>
      checked(await mapAndCheck(trx, installation().key, { id, map, requestedBy: user.name })),
  }),
  save: formAction({
    shape: saveForm,
    about: about('save'),
    taken: () => TAKEN,
    work: async (form, { trx }) => {
      const id = await saveChecked(trx, installation().key, form)
      return { record: `connected source ${form.name}`, to: `/sources/${id}` }
    },
  }),
  push: formAction({
    shape: newSender,
    about: about('push'),
    taken: () => TAKEN,
    work: async (form, { trx }) => {
      const token = await addSender(trx, form)
      return { record: `connected source ${form.name}`, done: { token, name: form.name } }
    },
  }),
}
