import { fail } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import {
  deleteFilter,
  deleteOwnField,
  insertOwnField,
  listFilters,
  listOwnFields,
  saveFilter,
} from '#db/gear'
import { recordChange } from '#db/platform'
import { filterForm, firstProblem, ownFieldForm } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { loadInventory, loadPartInventory } from '$lib/server/gear/inventory'
import { importInventory, readLines } from '$lib/server/gear/inventoryFile'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, url, depends }) => {
  depends('rack:books')
  const { db } = installation()
  const isParts = url.searchParams.get('of') === 'parts'
  const [gear, parts, fields, filters] = await Promise.all([
    isParts ? [] : loadInventory(db),
    isParts ? loadPartInventory(db) : [],
    listOwnFields(db),
    listFilters(db),
  ])
  return { isParts, gear, parts, fields, filters, mayAdminister: mayDo(locals.user!.role, 'administer') }
}

const isTaken = (error: unknown): boolean =>
  error instanceof Error && 'code' in error && error.code === '23505'

export const actions: Actions = {
  field: async ({ request, locals }) => {
    const parsed = ownFieldForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    try {
      await insertOwnField(db, parsed.data.name, parsed.data.kind)
    } catch (error) {
      if (isTaken(error)) return fail(400, { message: `There is a field ${parsed.data.name} already.` })
      throw error
    }
    await recordChange(db, locals.user!.name, `made the field ${parsed.data.name}`)
    return { message: null }
  },
  dropField: async ({ request, locals }) => {
    const { db } = installation()
    const id = Number((await request.formData()).get('id'))
    await deleteOwnField(db, id)
    await recordChange(db, locals.user!.name, `took field ${id} away`)
    return { message: null }
  },
  keepFilter: async ({ request, locals }) => {
    const parsed = filterForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    await saveFilter(installation().db, { ...parsed.data, who: locals.user!.name })
    return { message: null }
  },
  dropFilter: async ({ request }) => {
    await deleteFilter(installation().db, Number((await request.formData()).get('id')))
    return { message: null }
  },
  import: async ({ request, locals }) => {
    const file = (await request.formData()).get('file')
    if (!(file instanceof File) || file.size === 0)
      return fail(400, { message: 'Choose a file, CSV or XLSX.' })
    if (file.size > 20 * 1024 * 1024) return fail(400, { message: 'The file is larger than 20 MiB.' })
    try {
      const { changed, same } = await importInventory(
        installation().db,
        await readLines(file),
        locals.user!.name,
      )
      return { message: null, done: `${changed} gear changed, ${same} as they were.` }
    } catch (refusal) {
      if (refusal instanceof Refused) return fail(400, { message: refusal.message })
      throw refusal
    }
  },
}
