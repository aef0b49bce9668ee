import { GEAR_KINDS } from '#core/catalogue'
import { placeLabel } from '#core/site'
import type { GearState } from '#core/gear'
import { formatMoment } from '#core/units'
import type { GearRow } from '#db/gear'
import { hangs, links } from '../links/gearSections.ts'
import { texts } from '../logs/gearSections.ts'
import { battery, powerPath } from '../power/gearSections.ts'
import { curves } from '../readings/gearSections.ts'
import { change, front, history, why } from './gearSections.ts'
import type { GearAbout, GearSection } from './section.ts'

/** What makes the page of a gear. A subject adds its section here, and its component to the page's list. */
export const GEAR_SECTIONS = {
  front,
  powerPath,
  why,
  hangs,
  curves,
  battery,
  texts,
  history,
  links,
  change,
}

export type SectionKey = keyof typeof GEAR_SECTIONS
/** What each section shows; `null` where it has nothing to show. */
export type SectionViews = {
  readonly [Key in SectionKey]: Awaited<ReturnType<(typeof GEAR_SECTIONS)[Key]['load']>>
}

export async function loadGearPage(about: GearAbout) {
  const { present, gear } = about
  const [states, ownLinks, off, ...views] = await Promise.all([
    present.states(),
    about.links(),
    offWords(about),
    ...Object.entries(GEAR_SECTIONS as Record<SectionKey, GearSection<unknown>>).map(
      async ([key, section]) =>
        [key, section.isFor?.(gear) === false ? null : await section.load(about)] as const,
    ),
  ])
  const feeds = ownLinks.filter(({ kind, isOutgoing }) => kind === 'fed-by' && isOutgoing)
  return {
    gear: {
      ...headOf(gear, states.get(gear.id) ?? 'well'),
      off,
      feeds: [...new Map(feeds.map(({ otherId, otherName }) => [otherId, otherName]))].map(([id, name]) => ({
        id,
        name,
      })),
    },
    sections: Object.fromEntries(views) as unknown as SectionViews,
  }
}

/** “off since 12:14”, as far as it is known since when; `null` of what is on, or does not tell. */
async function offWords(about: GearAbout): Promise<string | null> {
  const [series, { newest }, open] = await Promise.all([about.series(), about.around(), about.openAlerts()])
  // The gear's own word, or that of what runs on it: what says off is newer than what is silent since.
  const power = series.find(
    ({ id, measure, partId }) => measure === 'hw.power.state' && partId === null && newest(id) === 0,
  )
  if (power === undefined) return null
  const alert = open.find(({ seriesId }) => seriesId === power.id)
  if (alert === undefined) return 'switched off'
  const { nowMs } = about.present
  const { timeZone } = await about.present.site()
  const isExpected =
    alert.quietId !== null &&
    (await about.present.quiets()).some(({ id, scope }) => id === alert.quietId && scope.isOff === true)
  return `${isExpected ? 'as expected ' : ''}off since ${formatMoment(alert.sinceAt.getTime(), nowMs, timeZone)}`
}

function headOf(gear: GearRow, state: GearState) {
  const { id, name, kind, facts, unit, heightUnits } = gear
  const position = unit === null || heightUnits === null ? null : { unit, heightUnits }
  const cluster = facts['cluster']
  return {
    id,
    name,
    kind,
    state,
    facts,
    role:
      kind === 'server' && cluster !== undefined
        ? `server, hypervisor host of cluster ${cluster}`
        : GEAR_KINDS[kind].label,
    place: placeLabel({ room: gear.roomName, rack: gear.rackName, position, onName: gear.onName }),
    sourceIds: gear.sourceIds,
    tags: gear.tags,
    rackId: gear.rackId,
    unit,
    heightUnits,
  }
}
