import {
  type Availability,
  availabilityOf,
  availabilitySentence,
  type Budget,
  budgetOf,
  HoursError,
  isWhere,
  lengthOf,
  meeting,
  parseServiceHours,
  PICK_SCOPES,
  SERVICE_HOURS,
  type ServiceHours,
  serviceHoursText,
  serviceSpans,
  type Span,
} from '#core/past'
import { AmountError, parseAmount } from '#core/units'
import type { GearScope } from '#db/rules'
import { nodesOf, type SiteGroup } from '../links/paths.ts'
import type { Present } from '../platform/present.ts'
import { windowIn } from '../readings/window.ts'
import { courseOfNode, coursesOf, type Known } from './courses.ts'

const MOST_GEAR = 300
const MOST_OUTAGES = 60
const USUAL_LEVEL = 0.999

export interface AvailabilityRow {
  readonly key: string
  readonly name: string
  readonly href: string
  readonly what: 'gear' | 'group' | 'service'
  /** What is promised of it: its own level and hours, of a service that has them, else what was asked with; 0..1. */
  readonly level: number
  readonly hours: string
  readonly of: Availability
  readonly budget: Budget
}

export async function loadAvailability(present: Present, url: URL) {
  const window = windowIn(url, present.nowMs)
  const { timeZone } = await present.site()
  const asked = askedIn(url)
  const [scopes, groups] = await Promise.all([present.scopes(), present.groups()])
  const chosen = [...scopes.values()].filter((gear) => isWhere(asked.place, gear))
  const gear = chosen.slice(0, MOST_GEAR)
  const problems = [
    ...asked.problems,
    ...(chosen.length > gear.length
      ? [
          `${chosen.length} gear are asked for; the first ${MOST_GEAR} are looked at. Name a room, a cluster or a tag.`,
        ]
      : []),
  ]
  const promise = { level: asked.level, hours: asked.hours }
  const known = await coursesOf(present, gear, window, timeZone)
  const rowOf = (row: RowHead, course: Known, own: Promised = promise): WithCourse => ({
    ...row,
    course,
    ...keptOf(course, own, { window, nowMs: present.nowMs, timeZone }),
  })
  const nodes = nodesOf(groups, scopes, new Map())
  const ofGroups = nodes.flatMap((node) => {
    const course = courseOfNode(node, known, window)
    if (course === null) return []
    const { id, name, isService, level } = node
    const what = isService ? ('service' as const) : ('group' as const)
    const own = isService && level !== null ? { level, hours: node.hours } : promise
    return [rowOf({ key: `group ${id}`, name, href: `/gear/groups/${id}`, what }, course, own)]
  })
  const ofGear = gear.flatMap(({ gearId, gearName }) => {
    const course = known.get(gearId)
    const row = { key: `gear ${gearId}`, name: gearName, href: `/gear/${gearId}`, what: 'gear' as const }
    return course === undefined ? [] : [rowOf(row, course)]
  })
  const isOfService = ({ what }: WithCourse): boolean => what === 'service'
  const rows = [...ofGroups.filter(isOfService), ...ofGroups.filter((row) => !isOfService(row)), ...ofGear]
  return {
    window,
    level: asked.level,
    hours: serviceHoursText(asked.hours),
    place: asked.place,
    promisedMs: lengthOf(serviceSpans(asked.hours, window, timeZone)),
    rows: rows.map(({ course: _, ...row }): AvailabilityRow => row),
    outages: outagesOf(rows),
    problems,
    sentence: availabilitySentence(rows, asked.level),
  }
}

type RowHead = Pick<AvailabilityRow, 'key' | 'name' | 'href' | 'what'>
type WithCourse = AvailabilityRow & { readonly course: Known }

interface Promised {
  readonly level: number
  readonly hours: ServiceHours | null
}

/** How a promise was kept within a window; what of it is still to come was neither up nor down. */
function keptOf(
  course: Known,
  { level, hours }: Promised,
  { window, nowMs, timeZone }: { readonly window: Span; readonly nowMs: number; readonly timeZone: string },
) {
  const service = serviceSpans(hours, window, timeZone)
  const past = { fromMs: window.fromMs, toMs: Math.max(window.fromMs, Math.min(nowMs, window.toMs)) }
  const of = availabilityOf(course, { service: meeting(service, [past]), maintenance: course.maintenance })
  return { level, hours: serviceHoursText(hours), of, budget: budgetOf(level, of, lengthOf(service)) }
}

/** So many days back services are held against what is promised of them. */
export const SERVICE_DAYS = 30
const DAY_MS = 86_400_000

export interface ServiceKept {
  readonly of: Availability
  readonly budget: Budget
  readonly level: number
  readonly hours: string
  /** By day, the last is the one up to now: share of what was promised in which it was down, and was not heard. */
  readonly days: readonly { readonly fromMs: number; readonly down: number; readonly blind: number }[]
}

/** The shares of each day's promised time that were down, and not heard. */
function dayByDay(kept: (span: Span) => Pick<ServiceKept, 'of'>, fromMs: number): ServiceKept['days'] {
  return Array.from({ length: SERVICE_DAYS }, (_, index) => {
    const dayMs = fromMs + index * DAY_MS
    const { promisedMs, downMs, blindMs } = kept({ fromMs: dayMs, toMs: dayMs + DAY_MS }).of
    const share = (ms: number): number => (promisedMs === 0 ? 0 : ms / promisedMs)
    return { fromMs: dayMs, down: share(downMs), blind: share(blindMs) }
  })
}

/** How services did of late, by their ids; those of which not all gear tells whether it works are left out. */
export async function keptByServices(
  present: Present,
  services: readonly SiteGroup[],
  scopes: ReadonlyMap<number, GearScope>,
): Promise<ReadonlyMap<number, ServiceKept>> {
  const { nowMs } = present
  const { timeZone } = await present.site()
  const window = { fromMs: nowMs - SERVICE_DAYS * DAY_MS, toMs: nowMs }
  const ids = new Set(services.map(({ id }) => id))
  const gear = [...scopes.values()].filter(({ groupIds }) => groupIds.some((id) => ids.has(id)))
  const known = await coursesOf(present, gear.slice(0, MOST_GEAR), window, timeZone)
  return new Map(
    services.flatMap((service): [number, ServiceKept][] => {
      const course = courseOfNode(service, known, window)
      if (course === null) return []
      const promise = { level: service.level ?? USUAL_LEVEL, hours: service.hours }
      const kept = (span: Span) => keptOf(course, promise, { window: span, nowMs, timeZone })
      return [[service.id, { ...kept(window), days: dayByDay(kept, window.fromMs) }]]
    }),
  )
}

function askedIn(url: URL) {
  const { searchParams } = url
  const problems: string[] = []
  const scope = PICK_SCOPES.find((each) => each === searchParams.get('whereKind')) ?? 'everywhere'
  const value = searchParams.get('whereValue') ?? ''
  let hours: ServiceHours | null = null
  const given = searchParams.get('hours') ?? ''
  try {
    hours = Object.hasOwn(SERVICE_HOURS, given) ? SERVICE_HOURS[given]!.hours : parseServiceHours(given)
  } catch (error) {
    if (!(error instanceof HoursError)) throw error
    problems.push(`${error.message} Around the clock is taken.`)
  }
  let level = USUAL_LEVEL
  const text = searchParams.get('level') ?? ''
  if (text !== '')
    try {
      level = parseAmount(text, 'ratio')
      if (!(level > 0 && level < 1)) {
        problems.push(
          `A promised level lies between 0 and 100 %: “${text.slice(0, 20)}” does not; 99.9 % is taken.`,
        )
        level = USUAL_LEVEL
      }
    } catch (error) {
      if (!(error instanceof AmountError)) throw error
      problems.push(error.message)
    }
  return {
    level,
    hours,
    place: { scope: value === '' ? ('everywhere' as const) : scope, value },
    problems,
  }
}

/** The outages of all, the newest first. */
function outagesOf(rows: readonly WithCourse[]) {
  return rows
    .flatMap(({ key, name, href, of, course }) =>
      of.outages.map((outage) => ({
        key: `${key} ${outage.fromMs}`,
        name,
        href,
        ...outage,
        cause: [
          ...new Set(
            course.causes.filter((each) => meeting([each], [outage]).length > 0).map(({ words }) => words),
          ),
        ].slice(0, 3),
      })),
    )
    .sort((a, b) => b.fromMs - a.fromMs)
    .slice(0, MOST_OUTAGES)
}
