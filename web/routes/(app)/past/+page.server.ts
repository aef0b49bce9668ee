import { deleteView, listViews, writeView } from '#db/past'
import { viewForm } from '$lib/server/past/forms'
import { loadPast } from '$lib/server/past/past'
import { formAction, idField } from '$lib/server/platform/formAction'
import { hears } from '$lib/server/platform/hears'
import { presentOf } from '$lib/server/platform/present'
import { Refused } from '$lib/server/platform/refused'
import { may } from '$lib/server/platform/signedIn'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, url, depends }) => {
  hears(depends, 'alerts', 'places')
  depends('past:curves')
  const present = presentOf(locals)
  const [past, views] = await Promise.all([loadPast(present, url), listViews(present.db)])
  return { ...past, views, mayOperate: may(locals, 'operate') }
}

export const actions: Actions = {
  keep: formAction({
    shape: viewForm,
    work: async (view, { trx, user }) => {
      await writeView(trx, view, user.name)
      return { record: `kept the view ${view.name} of the past` }
    },
  }),
  deleteView: formAction({
    shape: idField,
    work: async ({ id }, { trx }) => {
      const name = await deleteView(trx, id)
      if (name === undefined) throw new Refused('This view is not kept any more.')
      return { record: `deleted the view ${name} of the past` }
    },
  }),
}
