import { z } from 'zod'
import { formAction } from '$lib/server/platform/formAction'
import { hears } from '$lib/server/platform/hears'
import { installation } from '$lib/server/platform/installation'
import { keepOwnMeasure, loadOwnMeasures, removeOwnMeasure } from '$lib/server/readings/ownMeasures'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ depends }) => {
  hears(depends, 'measures', 'rules', 'sources')
  return { measures: await loadOwnMeasures(installation().db) }
}

const text = (most: number) => z.string().max(most, `At most ${most} characters`).default('')
const measureForm = z.object({
  key: text(64),
  label: text(64),
  unit: text(40),
  kind: text(20),
  group: text(40),
  decimals: text(4),
  states: text(1000),
  low: text(30),
  high: text(30),
  isNew: z.enum(['yes', 'no']),
})

export const actions: Actions = {
  save: formAction({
    shape: measureForm,
    about: () => ({ removed: null as string | null, refused: null as string | null }),
    work: async ({ isNew, ...fields }, { trx, user }) => {
      const measure = await keepOwnMeasure(trx, fields, { isNew: isNew === 'yes', who: user.name })
      return {
        record: `${isNew === 'yes' ? 'added' : 'changed'} the measure ${measure.key}, ${measure.label}`,
        tells: [{ topic: 'measures' }],
        done: { saved: measure.key },
      }
    },
  }),
  remove: formAction({
    shape: z.object({ key: text(64) }),
    says: 'refused',
    work: async ({ key }, { trx }) => {
      await removeOwnMeasure(trx, key)
      return {
        record: `deleted the measure ${key}`,
        tells: [{ topic: 'measures' }],
        done: { removed: key as string | null },
      }
    },
  }),
}
