import {
  deleteFilter,
  deleteOwnField,
  insertOwnField,
  listFilters,
  listOwnFields,
  saveFilter,
} from '#db/gear'
import { filterForm, ownFieldForm } from '$lib/server/gear/forms'
import { installation } from '$lib/server/platform/installation'
import { loadInventory, loadPartInventory } from '$lib/server/gear/inventory'
import { importInventory, readLines } from '$lib/server/gear/inventoryFile'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'
import { formAction, idField, noFields } from '$lib/server/platform/formAction'
import { hears } from '$lib/server/platform/hears'
import { may } from '$lib/server/platform/signedIn'

export const load: PageServerLoad = async ({ locals, url, depends }) => {
  hears(depends, 'places', 'items', 'sources')
  const { db } = installation()
  const isParts = url.searchParams.get('of') === 'parts'
  const [gear, parts, fields, filters] = await Promise.all([
    isParts ? [] : loadInventory(db),
    isParts ? loadPartInventory(db) : [],
    listOwnFields(db),
    listFilters(db),
  ])
  return { isParts, gear, parts, fields, filters, mayAdminister: may(locals, 'administer') }
}

const MOST_BYTES = 20 * 1024 * 1024

export const actions: Actions = {
  field: formAction({
    shape: ownFieldForm,
    taken: ({ name }) => `There is a field ${name} already.`,
    work: async ({ name, kind }, { trx }) => {
      await insertOwnField(trx, name, kind)
      return { record: `made the field ${name}` }
    },
  }),
  dropField: formAction({
    shape: idField,
    work: async ({ id }, { trx }) => {
      await deleteOwnField(trx, id)
      return { record: `took field ${id} away` }
    },
  }),
  keepFilter: formAction({
    shape: filterForm,
    work: async (form, { trx, user }) => {
      await saveFilter(trx, { ...form, who: user.name })
      return { record: `kept the filter ${form.name}` }
    },
  }),
  dropFilter: formAction({
    shape: idField,
    work: async ({ id }, { trx }) => {
      await deleteFilter(trx, id)
      return { record: `took filter ${id} away` }
    },
  }),
  import: formAction({
    shape: noFields,
    work: async (_form, { trx, user, data }) => {
      const file = data.get('file')
      if (!(file instanceof File) || file.size === 0) throw new Refused('Choose a file, CSV or XLSX.')
      if (file.size > MOST_BYTES) throw new Refused('The file is larger than 20 MiB.')
      const { changed, same } = await importInventory(trx, await readLines(file), user.name)
      return { done: { done: `${changed} gear changed, ${same} as they were.` } }
    },
  }),
}
