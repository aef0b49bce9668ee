import { GEAR_KINDS, PART_KINDS } from '#core/catalogue'
import { fitsInventory, inventoryFilterOf, isFiltering } from '#core/gear'
import {
  countGearByKind,
  countParts,
  countWarranties,
  deleteFilter,
  deleteOwnField,
  insertOwnField,
  listFilters,
  listOwnFields,
  saveFilter,
} from '#db/gear'
import type { Db } from '#db/platform'
import { filterForm, ownFieldForm } from '$lib/server/gear/forms'
import { installation } from '$lib/server/platform/installation'
import { FIRST_ROWS } from '$lib/server/gear/gearList'
import { loadInventory, loadPartInventory } from '$lib/server/gear/inventory'
import { importInventory, readLines } from '$lib/server/gear/inventoryFile'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'
import { formAction, idField, noFields } from '$lib/server/platform/formAction'
import { hears } from '$lib/server/platform/hears'
import { may } from '$lib/server/platform/signedIn'

export const load: PageServerLoad = async ({ locals, url, depends, untrack }) => {
  hears(depends, 'places', 'items', 'sources')
  const { db } = installation()
  const isParts = url.searchParams.get('of') === 'parts'
  // The page that is open filters by itself.
  const filter = untrack(() => inventoryFilterOf(url.searchParams))
  const most = isFiltering(filter) ? undefined : FIRST_ROWS
  const [rows, about, fields, filters] = await Promise.all([
    isParts ? loadPartInventory(db, most) : loadInventory(db, most),
    isParts ? aboutParts(db) : aboutGear(db),
    listOwnFields(db),
    listFilters(db),
  ])
  const fitting = rows.filter((row) => fitsInventory(row, filter, Date.now()))
  return {
    isParts,
    list: {
      rows: fitting.slice(0, FIRST_ROWS),
      isWhole: about.count <= FIRST_ROWS && most !== undefined,
    },
    fitCount: most === undefined ? fitting.length : about.count,
    about,
    fields,
    filters,
    mayAdminister: may(locals, 'administer'),
  }
}

/** What the sentence over the list is made from. */
async function aboutParts(db: Db) {
  const { count, gear, kinds } = await countParts(db)
  return { count, gear, kinds: kinds.map((kind) => PART_KINDS[kind].label), warranties: [] }
}

async function aboutGear(db: Db) {
  const [kinds, warranties] = await Promise.all([countGearByKind(db), countWarranties(db)])
  const count = kinds.reduce((sum, kind) => sum + kind.count, 0)
  return { count, gear: count, kinds: kinds.map(({ kind }) => GEAR_KINDS[kind].label), warranties }
}

const MOST_BYTES = 20 * 1024 * 1024

export const actions: Actions = {
  field: formAction({
    shape: ownFieldForm,
    taken: ({ name }) => `There is a field ${name} already.`,
    work: async ({ name, kind }, { trx }) => {
      await insertOwnField(trx, name, kind)
      return { record: `added the field ${name}` }
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
