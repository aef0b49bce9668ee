import { gearKindOf } from '#core/catalogue'
import { partView, readingView } from '#core/gear'
import { failureSentence, silenceSentence } from '#core/sources'
import { listGearChanges, mergesOf } from '#db/gear'
import { clockOf } from '#db/sources'
import { descriptorOf } from '#protocols/registry'
import { alertRows } from '../alerts/alertRows.ts'
import { quietsOver } from '../alerts/quiet.ts'
import { inventoryOf } from './inventory.ts'
import { type GearAbout, gearSection } from './section.ts'

const MOST_CHANGES = 50

export async function partViews(about: GearAbout) {
  const [parts, series, around] = await Promise.all([about.parts(), about.series(), about.around()])
  return parts.map((part) => partView(part, series, around))
}

/** Readings of the gear as a whole. */
export async function ownViews(about: GearAbout) {
  const [series, around] = await Promise.all([about.series(), about.around()])
  return series.filter(({ partId }) => partId === null).map((each) => readingView(each, null, around))
}

/** Its front, drawn from its parts; what it measures where it has none. */
export const front = gearSection({
  isFor: ({ kind }) => gearKindOf(kind).drawing !== 'path',
  hears: ['alerts', 'quiet', 'series', 'items'],
  load: async (about) => ({
    parts: gearKindOf(about.gear.kind).drawing === 'front' ? await partViews(about) : [],
    own: await ownViews(about),
    alarms: about.gear.facts['alarms'] ?? null,
  }),
})

/** Why it is as it is, and who sees it. */
export const why = gearSection({
  hears: ['alerts', 'quiet', 'sources', 'rules', 'callouts'],
  async load(about) {
    const { present } = about
    const [open, sources, silent, parts] = await Promise.all([
      about.openAlerts(),
      about.sources(),
      present.silent(),
      about.parts(),
    ])
    const quietIds = open.flatMap(({ quietId }) => quietId ?? [])
    return {
      quiets: await quietsOver(present, about.gear.id, { partIds: parts.map(({ id }) => id), quietIds }),
      rows: await alertRows(present, open, null),
      silent: sources
        .filter(({ id }) => silent.has(id))
        .map((source) => silenceSentence(source.name, clockOf(source), present.nowMs)),
      sources: sources.map((source) => ({
        id: source.id,
        name: source.name,
        heardMs: source.lastHeardAt?.getTime() ?? null,
        failure: source.failure === null ? null : failureSentence(source.failure),
        isPolled: descriptorOf(source.protocol).isPolled,
      })),
    }
  },
})

/** What is known of it for the inventory, and what has changed of it. */
export const history = gearSection({
  hears: ['items', 'places'],
  async load({ present, gear }) {
    const [changes, inventory] = await Promise.all([
      listGearChanges(present.db, { gearId: gear.id, limit: MOST_CHANGES }),
      inventoryOf(present, gear),
    ])
    return { changes, inventory }
  },
})

/** What people say of it: name, tags, place; and that it is one with another, or two. */
export const change = gearSection({
  hears: ['places', 'sources'],
  async load(about) {
    if (!about.asked.mayAdminister) return null
    const { db } = about.present
    const [racks, merges, sources] = await Promise.all([
      about.present.racks(),
      mergesOf(db, about.gear.id),
      about.sources(),
    ])
    return {
      racks: racks.map(({ id, name, heightUnits }) => ({ id, name, heightUnits })),
      merges: merges.map(({ at, ...merge }) => ({ ...merge, atMs: at.getTime() })),
      sources: sources.map(({ id, name }) => ({ id, name })),
    }
  },
})
