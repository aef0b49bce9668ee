import type { GearKind, MeasureKey } from '#core/catalogue'
import { isRepeats, type QuietTime, timeOfRepeating } from '#core/alerts'
import type { GroupDefinition } from '#core/gear'
import {
  type Availability,
  availabilityOf,
  availabilitySentence,
  type Budget,
  budgetOf,
  type Course,
  courseOfMany,
  isWhere,
  meeting,
  PICK_SCOPES,
  SERVICE_HOURS,
  serviceSpans,
  lengthOf,
  type Span,
  union,
  without,
} from '#core/past'
import { commonGaps, findGaps } from '#core/readings'
import { isAt } from '#core/rules'
import { AmountError, parseAmount } from '#core/units'
import { listQuiets, type QuietRow } from '#db/alerts'
import { listTroubles, listWitnesses, type TroubleRow } from '#db/past'
import { readSpans } from '#db/readings'
import type { GearScope } from '#db/rules'
import { listClocks } from '#db/sources'
import type { Present } from '../platform/present.ts'
import { windowIn } from '../readings/window.ts'

/** Of what says that something does not work: the values that mean it, and what they are called. */
const DOWN: Readonly<
  Partial<Record<MeasureKey, { readonly values: readonly number[]; readonly words: string }>>
> = {
  'hw.power.state': { values: [0], words: 'switched off' },
  'net.reachable': { values: [0], words: 'not reached' },
  // RFC 1628 upsOutputSource: none(2).
  'ups.output.source': { values: [2], words: 'gives no power' },
  'hw.status': { values: [2], words: 'reports that it has failed' },
}
/** What stands by until it is needed is off most of the time. */
const STANDS_BY: readonly GearKind[] = ['generator']
const MOST_GEAR = 300
const MOST_OUTAGES = 60
const USUAL_MS = 60_000
const SHORTEST_GAP_MS = 180_000
/** An alert that came so long before or after still tells of an outage. */
const AROUND_MS = 300_000

export interface AvailabilityRow {
  readonly key: string
  readonly name: string
  readonly href: string
  readonly what: 'gear' | 'group'
  readonly of: Availability
  readonly budget: Budget
}

interface Known extends Course {
  readonly maintenance: readonly Span[]
  /** Why it was down, by its spans. */
  readonly causes: readonly (Span & { readonly words: string })[]
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
  const service = serviceSpans(SERVICE_HOURS[asked.hours]!.hours, window, timeZone)
  const whole = lengthOf(service)
  // What is still to come was neither up nor down.
  const past = meeting(service, [
    { fromMs: window.fromMs, toMs: Math.max(window.fromMs, Math.min(present.nowMs, window.toMs)) },
  ])
  const known = await coursesOf(present, gear, window, timeZone)
  const rowOf = (
    row: Omit<AvailabilityRow, 'of' | 'budget'>,
    course: Known,
  ): AvailabilityRow & { course: Known } => {
    const of = availabilityOf(course, { service: past, maintenance: course.maintenance })
    return { ...row, of, budget: budgetOf(asked.level, of, whole), course }
  }
  const ofGroups = groups.flatMap((group) => {
    const ids = gear.filter(({ groupIds }) => groupIds.includes(group.id)).map(({ gearId }) => gearId)
    const members = ids.flatMap((id) => known.get(id) ?? [])
    // A group of which not all are looked at would be told wrongly.
    const all = [...scopes.values()].filter(({ groupIds }) => groupIds.includes(group.id)).length
    if (members.length === 0 || members.length < all) return []
    const { id, name } = group
    const row = { key: `group ${id}`, name, href: `/gear/groups/${id}`, what: 'group' as const }
    return [rowOf(row, courseOfGroup(members, group, window))]
  })
  const ofGear = gear.flatMap(({ gearId, gearName }) => {
    const course = known.get(gearId)
    const row = { key: `gear ${gearId}`, name: gearName, href: `/gear/${gearId}`, what: 'gear' as const }
    return course === undefined ? [] : [rowOf(row, course)]
  })
  const rows = [...ofGroups, ...ofGear]
  return {
    window,
    level: asked.level,
    hours: asked.hours,
    place: asked.place,
    promisedMs: whole,
    rows: rows.map(({ key, name, href, what, of, budget }): AvailabilityRow => ({
      key,
      name,
      href,
      what,
      of,
      budget,
    })),
    outages: outagesOf(rows),
    problems,
    sentence: availabilitySentence(rows, asked.level),
  }
}

function askedIn(url: URL) {
  const { searchParams } = url
  const problems: string[] = []
  const scope = PICK_SCOPES.find((each) => each === searchParams.get('whereKind')) ?? 'everywhere'
  const value = searchParams.get('whereValue') ?? ''
  const hours = searchParams.get('hours') ?? ''
  let level = 0.999
  const text = searchParams.get('level') ?? ''
  if (text !== '')
    try {
      level = parseAmount(text, 'ratio')
      if (!(level > 0 && level < 1)) {
        problems.push(
          `A promised level lies between 0 and 100 %: “${text.slice(0, 20)}” does not; 99.9 % is taken.`,
        )
        level = 0.999
      }
    } catch (error) {
      if (!(error instanceof AmountError)) throw error
      problems.push(error.message)
    }
  return {
    level,
    hours: Object.hasOwn(SERVICE_HOURS, hours) ? hours : 'always',
    place: { scope: value === '' ? ('everywhere' as const) : scope, value },
    problems,
  }
}

/** What is known of each gear over a window. */
async function coursesOf(
  present: Present,
  gear: readonly GearScope[],
  window: Span,
  timeZone: string,
): Promise<Map<number, Known>> {
  const { db, nowMs } = present
  const gearIds = gear.map(({ gearId }) => gearId)
  const toMs = Math.min(nowMs, window.toMs)
  const [witnesses, quiets, troubles] = await Promise.all([
    listWitnesses(db, gearIds, Object.keys(DOWN) as MeasureKey[]),
    listQuiets(db, nowMs, window.fromMs),
    listTroubles(db, gearIds, window),
  ])
  const [curves, clocks] = await Promise.all([
    readSpans(
      db,
      witnesses.map(({ id }) => id),
      window.fromMs,
      toMs,
    ),
    listClocks(db, [...new Set(witnesses.map(({ sourceId }) => sourceId))]),
  ])
  const intervals = new Map(clocks.map(({ id, intervalMs }) => [id, intervalMs]))
  return new Map(
    gear.flatMap((each): [number, Known][] => {
      const own = witnesses.filter(({ gearId }) => gearId === each.gearId)
      if (own.length === 0) return []
      const gaps: Span[][] = []
      const causes: (Span & { words: string })[] = []
      for (const { id, sourceId, measure } of own) {
        const { times, values } = curves.get(id)!
        const longestMs = Math.max(3 * (intervals.get(sourceId) ?? USUAL_MS), SHORTEST_GAP_MS)
        gaps.push(blindOf(times, { fromMs: window.fromMs, toMs }, longestMs))
        const down =
          measure === 'hw.power.state' && STANDS_BY.includes(each.gearKind) ? undefined : DOWN[measure]
        if (down !== undefined)
          causes.push(
            ...without(runsOf(times, values, down.values, toMs), union(gaps.at(-1)!)).map((span) => ({
              ...span,
              words: down.words,
            })),
          )
      }
      const maintenance = union(
        quiets.flatMap((quiet) =>
          isWork(quiet, each) ? timesOf(quiet, { fromMs: window.fromMs, toMs }, timeZone) : [],
        ),
      )
      const named = causes.map((cause) => ({ ...cause, words: causeOf(cause, each, troubles) }))
      return [[each.gearId, { down: union(causes), blind: commonGaps(gaps), maintenance, causes: named }]]
    }),
  )
}

/** Where nothing was heard, before the first reading and after the last, too. */
function blindOf(times: Float64Array, { fromMs, toMs }: Span, longestMs: number): Span[] {
  if (times.length === 0) return [{ fromMs, toMs }]
  const first = times[0]!
  const before = first - fromMs > longestMs ? [{ fromMs, toMs: first }] : []
  return [...before, ...findGaps(times, longestMs, toMs)]
}

/** Stretches in which a series had one of some values: each reading holds until the next. */
function runsOf(times: Float64Array, values: Float64Array, bad: readonly number[], untilMs: number): Span[] {
  const runs: Span[] = []
  let from: number | null = null
  times.forEach((at, index) => {
    const isBad = bad.includes(values[index]!)
    if (isBad && from === null) from = at
    if (!isBad && from !== null) {
      runs.push({ fromMs: from, toMs: at })
      from = null
    }
  })
  if (from !== null) runs.push({ fromMs: from, toMs: untilMs })
  return runs
}

/** Maintenance is what quiets a gear as a whole; one measure, or one rule, is something else. */
const isWork = ({ what, scope, isBroken }: QuietRow, gear: GearScope): boolean =>
  what === 'quiet' &&
  !isBroken &&
  scope.measure === null &&
  scope.ruleKey === null &&
  scope.where.kind !== 'part' &&
  isAt(scope.where, { ...gear, partId: null })

const MOST_TIMES = 400

/** All times of a quiet within a window. */
function timesOf({ first, repeats, endedAtMs }: QuietRow, window: Span, timeZone: string): Span[] {
  const endMs = Math.min(window.toMs, endedAtMs ?? Infinity)
  const cut = ({ fromMs, toMs }: QuietTime): Span => ({
    fromMs: Math.max(window.fromMs, fromMs),
    toMs: Math.min(endMs, toMs ?? Infinity),
  })
  const { fromMs, toMs } = first
  if (repeats === null || !isRepeats(repeats) || toMs === null) return [cut(first)]
  const times: Span[] = []
  let at = window.fromMs
  while (at < endMs && times.length < MOST_TIMES) {
    const time = timeOfRepeating({ fromMs, toMs }, repeats, at, timeZone)
    if (time === null || time.fromMs >= endMs || time.toMs === null) break
    times.push(cut(time))
    at = time.toMs + 1
  }
  return times
}

/** The alert that told of it: the first that was open during it, else how its state is called. */
function causeOf(
  { fromMs, toMs, words }: Span & { readonly words: string },
  { gearId, gearName }: GearScope,
  troubles: readonly TroubleRow[],
): string {
  const told = troubles.find(
    (each) =>
      each.gearId === gearId &&
      each.sinceAt.getTime() <= toMs + AROUND_MS &&
      (each.clearedAt?.getTime() ?? Infinity) >= fromMs - AROUND_MS,
  )
  return told?.title ?? `${gearName}: ${words}`
}

function courseOfGroup(members: readonly Known[], { rule, least }: GroupDefinition, window: Span): Known {
  const needed = rule === 'any' ? 1 : rule === 'all' ? members.length : least
  const counted = members.map(({ down, blind, maintenance }) => {
    // What is under work counts as neither: first as if it worked, then as if it did not.
    // What was not heard is counted apart, whatever the group takes it for at the moment.
    const isDown = without(union(down), maintenance)
    const isBlind = without(union(blind), maintenance)
    return { down: isDown, blind: isBlind, work: maintenance }
  })
  const best = courseOfMany(counted, needed, window)
  const worst = courseOfMany(
    counted.map(({ down, blind, work }) => ({ down: union([...down, ...work]), blind })),
    needed,
    window,
  )
  return {
    ...best,
    maintenance: without(union([...worst.down, ...worst.blind]), union([...best.down, ...best.blind])),
    causes: members.flatMap(({ causes }) => causes).sort((a, b) => a.fromMs - b.fromMs),
  }
}

/** The outages of all, the newest first. */
function outagesOf(rows: readonly (AvailabilityRow & { readonly course: Known })[]) {
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
