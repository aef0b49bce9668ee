import { deleteLeadTime, listForecastPlaces, listLeadTimes, writeLeadTime } from '#db/forecast'
import { nameOfGear } from '#db/gear'
import { leadTimeForm } from '$lib/server/forecast/forms'
import { formAction, idField } from '$lib/server/platform/formAction'
import { hears } from '$lib/server/platform/hears'
import { presentOf } from '$lib/server/platform/present'
import { Refused } from '$lib/server/platform/refused'
import { may } from '$lib/server/platform/signedIn'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends }) => {
  hears(depends, 'forecasts', 'places')
  const present = presentOf(locals)
  const [leadTimes, { tags }, names] = await Promise.all([
    listLeadTimes(present.db),
    listForecastPlaces(present.db),
    present.names(),
  ])
  return {
    leadTimes,
    tags,
    gear: names.map(({ id, name }) => ({ value: String(id), label: name })),
    mayAdminister: may(locals, 'administer'),
  }
}

const TELLS = [{ topic: 'forecasts' }] as const

export const actions: Actions = {
  add: formAction({
    shape: leadTimeForm,
    work: async ({ topic, days, of, tag, gearId }, { trx, user }) => {
      const gear = of === 'gear' ? await nameOfGear(trx, gearId ?? 0) : undefined
      if (of === 'gear' && gear === undefined)
        throw new Refused('Choose a gear: this one is not there any more.')
      if (of === 'tag' && tag === '') throw new Refused('Choose a tag.')
      await writeLeadTime(
        trx,
        { topic, days, tag: of === 'tag' ? tag : null, gearId: of === 'gear' ? gearId : null },
        user.name,
      )
      const scope = of === 'tag' ? ` with the tag ${tag}` : of === 'gear' ? ` of ${gear}` : ''
      return { record: `set the lead time of ${topic.toLowerCase()}${scope} to ${days} days`, tells: TELLS }
    },
  }),
  delete: formAction({
    shape: idField,
    work: async ({ id }, { trx }) => {
      if (!(await deleteLeadTime(trx, id))) throw new Refused('This lead time is not there any more.')
      return { record: 'deleted a lead time', tells: TELLS }
    },
  }),
}
