import { gearKindOf } from '#core/catalogue'
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
