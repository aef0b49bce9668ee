import { fail, redirect } from '@sveltejs/kit'
import { listMappings, listCredentials } from '#db/sources'
import { installation } from '$lib/server/platform/installation'
import { CSV_COLUMNS, keepLines, readSourcesCsv } from '$lib/server/sources/sourcesCsv'
import type { Actions, PageServerLoad } from './$types'
import { formAction, noFields } from '$lib/server/platform/formAction'

export const load: PageServerLoad = async () => {
  const { db } = installation()
  return {
    columns: CSV_COLUMNS,
    credentials: (await listCredentials(db)).map(({ name }) => name),
    mappings: (await listMappings(db)).map(({ name }) => name),
  }
}

export const actions: Actions = {
  default: async (event) => {
    const data = await event.request.clone().formData()
    const file = data.get('file')
    const text = file instanceof File && file.size > 0 ? await file.text() : String(data.get('text') ?? '')
    if (text.trim() === '')
      return fail(400, {
        text,
        mayChange: false,
        good: [],
        bad: [{ line: 1, why: 'Paste lines, or choose a file.' }],
      })
    const mayChange = data.get('change') === 'yes'
    const { good, bad } = await readSourcesCsv(installation().db, text, { mayChange })
    if (good.length === 0 || (bad.length > 0 && data.get('keep') !== 'good'))
      return fail(400, {
        text,
        mayChange,
        good: good.map(({ line, name, address }) => ({ line, name, address })),
        bad,
      })
    await keepGood(good)(event)
    redirect(303, '/sources')
  },
}

const keepGood = (good: Awaited<ReturnType<typeof readSourcesCsv>>['good']) =>
  formAction({
    shape: noFields,
    work: async (_form, { trx }) => {
      await keepLines(trx, good)
      const changed = good.filter(({ changesId }) => changesId !== null).length
      const record = [
        ...(good.length > changed ? [`connected ${good.length - changed} sources from CSV`] : []),
        ...(changed > 0 ? [`changed ${changed} sources from CSV`] : []),
      ]
      return { record: record.join(', ') }
    },
  })
