import { fail } from '@sveltejs/kit'
import { type Rating, readRatings } from '#core/disks'
import { formatBytes } from '#core/units'
import { deleteRating, listModels, writeRatings } from '#db/disks'
import { modelField, ratingForm, ratingLines } from '$lib/server/disks/forms'
import { formAction, noFields } from '$lib/server/platform/formAction'
import { hears } from '$lib/server/platform/hears'
import { presentOf } from '$lib/server/platform/present'
import { Refused } from '$lib/server/platform/refused'
import { may } from '$lib/server/platform/signedIn'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends }) => {
  hears(depends, 'forecasts', 'items')
  return { models: await listModels(presentOf(locals).db), mayAdminister: may(locals, 'administer') }
}

const TELLS = [{ topic: 'forecasts' }] as const

export const actions: Actions = {
  set: formAction({
    shape: ratingForm,
    about: ({ model }) => ({ of: String(model ?? '') }),
    work: async ({ model, endurance, origin }, { trx, user }) => {
      await writeRatings(trx, [{ model, ratedBytes: endurance, origin }], user.name)
      return { record: `rated ${model} at ${formatBytes(endurance)}, by ${origin}`, tells: TELLS }
    },
  }),
  delete: formAction({
    shape: modelField,
    about: ({ model }) => ({ of: String(model ?? '') }),
    work: async ({ model }, { trx }) => {
      if (!(await deleteRating(trx, model))) throw new Refused('This rating is not there any more.')
      return { record: `deleted the rating of ${model}`, tells: TELLS }
    },
  }),
  csv: async (event) => {
    const data = await event.request.clone().formData()
    const file = data.get('file')
    const text = file instanceof File && file.size > 0 ? await file.text() : String(data.get('text') ?? '')
    const known = new Set((await listModels(presentOf(event.locals).db)).map(({ model }) => model))
    let read: ReturnType<typeof readRatings>
    try {
      read = readRatings(ratingLines(text), known)
    } catch (error) {
      if (error instanceof Refused)
        return fail(400, { csv: { text, message: error.message, bad: [], good: 0, kept: 0 } })
      throw error
    }
    const { good, bad } = read
    if (good.length === 0 || (bad.length > 0 && data.get('keep') !== 'good'))
      return fail(400, { csv: { text, message: null, bad, good: good.length, kept: 0 } })
    await keep(good)(event)
    return { csv: { text: '', message: null, bad: [], good: 0, kept: good.length } }
  },
}

const keep = (good: readonly Rating[]) =>
  formAction({
    shape: noFields,
    work: async (_form, { trx, user }) => {
      await writeRatings(trx, good, user.name)
      return { record: `rated ${good.length} models of drives from CSV`, tells: TELLS }
    },
  })
