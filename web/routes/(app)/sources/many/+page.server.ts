import { fail, redirect } from '@sveltejs/kit'
import { listMappings, listCredentials } from '#db/sources'
import { recordChange } from '#db/platform'
import { installation } from '$lib/server/platform/installation'
import { CSV_COLUMNS, keepLines, readSourcesCsv } from '$lib/server/sources/sourcesCsv'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async () => {
  const { db } = installation()
  return {
    columns: CSV_COLUMNS,
    credentials: (await listCredentials(db)).map(({ name }) => name),
    mappings: (await listMappings(db)).map(({ name }) => name),
  }
}

export const actions: Actions = {
  default: async ({ request, locals }) => {
    const data = await request.formData()
    const file = data.get('file')
    const text = file instanceof File && file.size > 0 ? await file.text() : String(data.get('text') ?? '')
    if (text.trim() === '')
      return fail(400, { text, good: [], bad: [{ line: 1, why: 'Paste lines, or choose a file.' }] })
    const { db } = installation()
    const { good, bad } = await readSourcesCsv(db, text)
    if (good.length === 0 || (bad.length > 0 && data.get('keep') !== 'good'))
      return fail(400, { text, good: good.map(({ line, name, address }) => ({ line, name, address })), bad })
    await keepLines(db, good)
    await recordChange(db, locals.user!.name, `connected ${good.length} sources from CSV`)
    redirect(303, '/sources')
  },
}
