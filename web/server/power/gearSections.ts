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

/** What people say of the batteries of a UPS: when they were put in, and how old they are made to get. */
export const batteries = gearSection({
  isFor: ({ kind }) => kind === 'ups',
  hears: ['series', 'items'],
  load: async ({ present, gear, asked }) => {
    const battery = await findBattery(present.db, gear.id)
    if (battery === undefined)
      return asked.mayAdminister ? { installed: '', years: '', sentence: null, who: null } : null
    const { installed, years, who } = battery
    return { installed, years: String(years), sentence: batterySentence(battery, present.nowMs), who }
  },
})
