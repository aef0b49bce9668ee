import { gearKindOf } from '#core/catalogue'
import { batterySentence } from '#core/power'
import { findBattery } from '#db/power'
import { ownViews, partViews } from '../gear/gearSections.ts'
import { gearSection } from '../gear/section.ts'

/** The way that the power takes through a UPS. */
export const powerPath = gearSection({
  isFor: ({ kind }) => gearKindOf(kind).drawing === 'path',
  hears: ['alerts', 'quiet', 'series', 'items'],
  load: async (about) => ({
    parts: await partViews(about),
    own: await ownViews(about),
    alarms: about.gear.facts['alarms'] ?? null,
  }),
})

/** What people say of the battery of a UPS: when it was put in, and how old it is made to get. */
export const battery = gearSection({
  isFor: ({ kind }) => kind === 'ups',
  hears: ['series', 'items'],
  load: async ({ present, gear, asked }) => {
    const known = await findBattery(present.db, gear.id)
    if (known === undefined)
      return asked.mayAdminister ? { installed: '', years: '', sentence: null, who: null } : null
    const { installed, years, who } = known
    return {
      installed,
      years: String(Number(years.toFixed(2))),
      sentence: batterySentence(known, present.nowMs),
      who,
    }
  },
})
