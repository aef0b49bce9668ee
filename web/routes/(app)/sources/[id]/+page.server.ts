import { error } from '@sveltejs/kit'
import { mayDo } from '#core/accounts'
import { deleteSource, updateSource } from '#db/sources'
import { likeForm, mapForm, picksForm, sourceChange } from '$lib/server/sources/forms'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { Refused } from '$lib/server/platform/refused'
import {
  askAgain,
  changeMapping,
  checkAnother,
  changePicks,
  loadSourcePage,
} from '$lib/server/sources/sourcePage'
import type { Actions, PageServerLoad } from './$types'
import { formAction, noFields } from '$lib/server/platform/formAction'
import { signedIn } from '$lib/server/platform/signedIn'
import { hears, hearsSources } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
  hears(depends, 'sources', 'items', 'series', 'checks')
  const found = await loadSourcePage(
    installation().db,
    idOf(params.id),
    url.searchParams.get('check'),
    Date.now(),
  )
  if (found === null) error(404, 'There is no such source.')
  hearsSources(depends, [found.source.id])
  const { role } = signedIn(locals)
  return { ...found, mayCheck: mayDo(role, 'operate'), mayConnect: mayDo(role, 'administer') }
}

export const actions: Actions = {
  check: formAction({
    shape: noFields,
    work: async (_form, { trx, user, params }) => {
      const sourceId = idOf(params['id']!)
      const id = await askAgain(trx, installation().key, { sourceId, requestedBy: user.name })
      if (id === null) throw new Refused('There is no such source, or it is not asked but pushes.')
      return { to: `/sources/${sourceId}?check=${id}` }
    },
  }),
  map: formAction({
    shape: mapForm,
    work: async ({ map }, { trx, user, params }) => {
      const sourceId = idOf(params['id']!)
      const name = await changeMapping(trx, sourceId, map)
      const id = await askAgain(trx, installation().key, { sourceId, requestedBy: user.name })
      return { record: `changed mapping ${name}`, to: `/sources/${sourceId}?check=${id}` }
    },
  }),
  like: formAction({
    shape: likeForm,
    work: async ({ address }, { trx, user, params }) => {
      const asked = { sourceId: idOf(params['id']!), address, requestedBy: user.name }
      return { to: `/sources/connect?check=${await checkAnother(trx, installation().key, asked)}` }
    },
  }),
  pick: formAction({
    shape: picksForm,
    work: async ({ left }, { trx, params }) => {
      const changed = await changePicks(trx, idOf(params['id']!), left)
      return { record: `changed what is watched of source ${params['id']}: ${changed}` }
    },
  }),
  change: formAction({
    shape: sourceChange,
    taken: ({ name }) => `There is a source called ${name} already. Choose another name.`,
    work: async (form, { trx, params }) => {
      await updateSource(trx, idOf(params['id']!), form)
      return { record: `changed source ${form.name}` }
    },
  }),
  remove: formAction({
    shape: noFields,
    work: async (_form, { trx, params }) => {
      await deleteSource(trx, idOf(params['id']!))
      return { record: `removed source ${params['id']}`, to: '/sources' }
    },
  }),
}
