import { instantOf, wallClock } from '../units/index.ts'

/** A stretch of time, from the first ms up to, not with, the last. */
export interface Span {
  readonly fromMs: number
  readonly toMs: number
}

const DAY_MS = 86_400_000

/** When a service is promised: hours of each day of the week as the clocks of the site show them. `null` is always. */
export interface ServiceHours {
  /** By day, 0 is Monday: minutes from midnight, up to 1440; an empty list is a day on which nothing is promised. */
  readonly days: readonly (readonly (readonly [fromMinute: number, toMinute: number])[])[]
  /** Days on which nothing is promised (ISO 8601), whatever day of the week they are. */
  readonly except: readonly string[]
}

/** Spans within a window in which a service is promised, in order and apart; a day of 23 or 25 hours is what it is. */
export function serviceSpans(hours: ServiceHours | null, { fromMs, toMs }: Span, timeZone: string): Span[] {
  if (toMs <= fromMs) return []
  if (hours === null) return [{ fromMs, toMs }]
  const except = new Set(hours.except)
  const spans: Span[] = []
  const first = Math.floor(wallClock(fromMs, timeZone) / DAY_MS) - 1
  const last = Math.floor(wallClock(toMs, timeZone) / DAY_MS) + 1
  for (let day = first; day <= last; day += 1) {
    const midnight = day * DAY_MS
    if (except.has(new Date(midnight).toISOString().slice(0, 10))) continue
    // 1 January 1970 was a Thursday.
    for (const [from, to] of hours.days[(((day + 3) % 7) + 7) % 7] ?? [])
      spans.push({
        fromMs: instantOf(midnight + from * 60_000, timeZone),
        toMs: instantOf(midnight + to * 60_000, timeZone),
      })
  }
  return meeting(union(spans), [{ fromMs, toMs }])
}

/** Spans in order and apart; what touches or overlaps is one. */
export function union(spans: readonly Span[]): Span[] {
  const sorted = spans.filter(({ fromMs, toMs }) => toMs > fromMs).sort((a, b) => a.fromMs - b.fromMs)
  const joined: { fromMs: number; toMs: number }[] = []
  for (const { fromMs, toMs } of sorted) {
    const last = joined.at(-1)
    if (last !== undefined && fromMs <= last.toMs) last.toMs = Math.max(last.toMs, toMs)
    else joined.push({ fromMs, toMs })
  }
  return joined
}

/** What two lists of spans, each in order and apart, have in common. */
export function meeting(some: readonly Span[], others: readonly Span[]): Span[] {
  const common: Span[] = []
  let at = 0
  for (const span of some) {
    while (at < others.length && others[at]!.toMs <= span.fromMs) at += 1
    for (let other = at; other < others.length && others[other]!.fromMs < span.toMs; other += 1) {
      const fromMs = Math.max(span.fromMs, others[other]!.fromMs)
      const toMs = Math.min(span.toMs, others[other]!.toMs)
      if (toMs > fromMs) common.push({ fromMs, toMs })
    }
  }
  return common
}

/** The first list without the second; each in order and apart. */
export function without(some: readonly Span[], others: readonly Span[]): Span[] {
  const left: Span[] = []
  let at = 0
  for (const { fromMs, toMs } of some) {
    let from = fromMs
    while (at < others.length && others[at]!.toMs <= from) at += 1
    for (let other = at; other < others.length && others[other]!.fromMs < toMs; other += 1) {
      const gone = others[other]!
      if (gone.fromMs > from) left.push({ fromMs: from, toMs: gone.fromMs })
      from = Math.max(from, gone.toMs)
    }
    if (from < toMs) left.push({ fromMs: from, toMs })
  }
  return left
}

export const lengthOf = (spans: readonly Span[]): number =>
  spans.reduce((sum, { fromMs, toMs }) => sum + toMs - fromMs, 0)

/** What is known of one thing over time. What neither list says was up. */
export interface Course {
  readonly down: readonly Span[]
  /** Nothing was heard, and nothing says that it was down. */
  readonly blind: readonly Span[]
}

export interface Outage extends Span {
  readonly cause: string
}

export interface Availability {
  /** All that was promised: service hours without maintenance; ms. */
  readonly promisedMs: number
  readonly upMs: number
  readonly downMs: number
  /** Never counted as up. */
  readonly blindMs: number
  /** Within the service hours, counted apart. */
  readonly maintenanceMs: number
  /** Up of what is known, 0..1; `null` when nothing is known. */
  readonly share: number | null
  /** As it would be had it been down whenever nothing was heard. */
  readonly leastShare: number | null
  /** Stretches of being down within what was promised. */
  readonly outages: readonly Span[]
  /** From the end of an outage to the beginning of the next, within what was promised; `null` of fewer than two. */
  readonly betweenMs: number | null
  /** How long an outage lasted on average, within what was promised. */
  readonly mendMs: number | null
}

/**
 * How available something was within its service hours. Maintenance is taken out first; what is known to be down is
 * down, though nothing was heard; what was not heard is blind; the rest is up.
 */
export function availabilityOf(
  { down, blind }: Course,
  given: { readonly service: readonly Span[]; readonly maintenance: readonly Span[] },
): Availability {
  const work = meeting(union(given.maintenance), given.service)
  const promised = without(given.service, work)
  const isDown = meeting(union(down), promised)
  const isBlind = without(meeting(union(blind), promised), isDown)
  const [promisedMs, downMs, blindMs] = [lengthOf(promised), lengthOf(isDown), lengthOf(isBlind)]
  const upMs = promisedMs - downMs - blindMs
  const known = upMs + downMs
  // One outage over a night without service is one, not two.
  const outages = union(down).flatMap((outage) => (meeting([outage], promised).length === 0 ? [] : [outage]))
  return {
    promisedMs,
    upMs,
    downMs,
    blindMs,
    maintenanceMs: lengthOf(work),
    share: known === 0 ? null : upMs / known,
    leastShare: promisedMs === 0 ? null : upMs / promisedMs,
    outages,
    betweenMs: outages.length < 2 ? null : betweenOf(outages, promised),
    mendMs: outages.length === 0 ? null : downMs / outages.length,
  }
}

/** The mean of what was promised between each outage and the next. */
function betweenOf(outages: readonly Span[], promised: readonly Span[]): number {
  const between = outages.slice(1).map((next, index) => ({ fromMs: outages[index]!.toMs, toMs: next.fromMs }))
  return between.reduce((sum, span) => sum + lengthOf(meeting([span], promised)), 0) / between.length
}

/** What of the promise may still be missed. */
export interface Budget {
  /** May be down for so long over the whole period; ms. */
  readonly allowedMs: number
  readonly usedMs: number
  /** Below zero when it is overdrawn. */
  readonly leftMs: number
  /** How fast it goes: 1 is just used up at the end of the period, 2 at its middle; `null` before anything was promised. */
  readonly pace: number | null
}

/**
 * The error budget of a promised level.
 * @param level 0..1
 * @param whole all that is promised in the whole period, of which some may still be to come; ms
 */
export function budgetOf(level: number, { promisedMs, downMs }: Availability, whole: number): Budget {
  const allowedMs = (1 - level) * whole
  const share = whole === 0 ? 0 : promisedMs / whole
  return {
    allowedMs,
    usedMs: downMs,
    leftMs: allowedMs - downMs,
    pace: share === 0 || allowedMs === 0 ? null : downMs / allowedMs / share,
  }
}

/**
 * The course of several as one: up while at least so many are up, blind while with those that are not heard it might be,
 * and down otherwise.
 */
export function courseOfMany(members: readonly Course[], needed: number, { fromMs, toMs }: Span): Course {
  if (members.length === 0) return { down: [], blind: toMs > fromMs ? [{ fromMs, toMs }] : [] }
  const lists = members.map((member) => {
    const down = union(member.down)
    return { down, blind: without(union(member.blind), down) }
  })
  const edges = [
    ...new Set([
      fromMs,
      toMs,
      ...lists.flatMap(({ down, blind }) => [...down, ...blind].flatMap((span) => [span.fromMs, span.toMs])),
    ]),
  ]
    .filter((at) => at >= fromMs && at <= toMs)
    .sort((a, b) => a - b)
  const cursors = lists.map(() => ({ down: 0, blind: 0 }))
  const made = { down: [] as Span[], blind: [] as Span[] }
  edges.slice(0, -1).forEach((from, index) => {
    let [up, unknown] = [0, 0]
    lists.forEach((list, member) => {
      const cursor = cursors[member]!
      for (const key of ['down', 'blind'] as const)
        while (cursor[key] < list[key].length && list[key][cursor[key]]!.toMs <= from) cursor[key] += 1
      const holds = (key: 'down' | 'blind'): boolean => (list[key][cursor[key]]?.fromMs ?? Infinity) <= from
      if (holds('down')) return
      if (holds('blind')) unknown += 1
      else up += 1
    })
    if (up >= needed) return
    made[up + unknown >= needed ? 'blind' : 'down'].push({ fromMs: from, toMs: edges[index + 1]! })
  })
  return { down: union(made.down), blind: union(made.blind) }
}
