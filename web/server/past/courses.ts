import type { GearKind, MeasureKey } from '#core/catalogue'
import { isRepeats, type QuietTime, timeOfRepeating } from '#core/alerts'
import type { GroupNode } from '#core/gear'
import { type Course, courseOfMany, type Span, union, without } from '#core/past'
import { commonGaps, findGaps } from '#core/readings'
import { isAt } from '#core/rules'
import { listQuiets, type QuietRow } from '#db/alerts'
import { listTroubles, listWitnesses, type TroubleRow } from '#db/past'
import { readSpans } from '#db/readings'
import type { GearScope } from '#db/rules'
import { listClocks } from '#db/sources'
import type { Present } from '../platform/present.ts'

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
const USUAL_MS = 60_000
const SHORTEST_GAP_MS = 180_000
/** An alert that came so long before or after still tells of an outage. */
const AROUND_MS = 300_000

/** What is known of a thing over time, what was done to it on purpose, and why it was down. */
export interface Known extends Course {
  readonly maintenance: readonly Span[]
  /** Why it was down, by its spans. */
  readonly causes: readonly (Span & { readonly words: string })[]
}

/** What is known of each gear over a window. */
export async function coursesOf(
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
    listQuiets(db, nowMs, { endedSinceMs: window.fromMs }),
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

/**
 * What is known of a group, by its gear and the groups within it; `null` when something of it was not looked at, or tells
 * nothing about whether it works: it would be told wrongly.
 */
export function courseOfNode(node: GroupNode, known: ReadonlyMap<number, Known>, window: Span): Known | null {
  const members: Known[] = []
  for (const { id } of node.members) {
    const course = known.get(id)
    if (course === undefined) return null
    members.push(course)
  }
  for (const inner of node.groups) {
    const course = courseOfNode(inner, known, window)
    if (course === null) return null
    members.push(course)
  }
  return members.length === 0 ? null : courseOfGroup(members, node, window)
}

function courseOfGroup(
  members: readonly Known[],
  { rule, least }: Pick<GroupNode, 'rule' | 'least'>,
  window: Span,
): Known {
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
