import type { GearKind, LinkKind, MeasureKey, PartKind } from '../catalogue/index.ts'
import { DAY_MS } from './face.ts'

/** What uses a finite thing up: whoever hangs on it by these links, one step each, and what is measured of them. */
export interface DrivenBy {
  /** From the thing towards what needs it: machines of a store, stores of an array. Of a cluster, from each of its hosts. */
  readonly links: readonly LinkKind[]
  readonly kinds: readonly GearKind[]
  readonly measure: MeasureKey
  /** `growth`: what counts is how it changes. `flow`: what counts is how much it is, as of bytes written. */
  readonly as: 'growth' | 'flow'
  /** Ratios of things of unlike size are added up by how many processors they have. */
  readonly isOfProcessors?: boolean
  /** Of what the amounts are. */
  readonly words: string
}

const STORED: Omit<DrivenBy, 'kinds'> = {
  links: ['stores-on'],
  measure: 'system.filesystem.usage',
  as: 'growth',
  words: 'what they store',
}
const FED: DrivenBy = {
  links: ['fed-by'],
  kinds: ['pdu', 'server', 'host', 'chassis', 'array', 'switch', 'cooling', 'recorder'],
  measure: 'hw.power',
  as: 'growth',
  words: 'what they draw',
}

const GUESTS = { links: ['hosts'], kinds: ['machine'], as: 'growth' } as const
const hostsMachines = (gearKind: GearKind, partKind: PartKind | null): boolean =>
  (gearKind === 'server' || gearKind === 'cluster') && partKind === null

/** By whom a finite thing is used up; `null` where nobody can be named. */
export function drivenBy({
  measure,
  gearKind,
  partKind,
}: {
  readonly measure: MeasureKey
  readonly gearKind: GearKind
  readonly partKind: PartKind | null
}): DrivenBy | null {
  switch (measure) {
    case 'system.filesystem.utilization':
      if (gearKind === 'store') return { ...STORED, kinds: ['machine', 'volume'] }
      return gearKind === 'array' && partKind !== 'volume' ? { ...STORED, kinds: ['store'] } : null
    case 'system.memory.utilization':
    case 'system.memory.less_largest':
      return hostsMachines(gearKind, partKind)
        ? { ...GUESTS, measure: 'system.memory.usage', words: 'memory they use' }
        : null
    case 'system.cpu.utilization':
    case 'system.cpu.less_largest':
      return hostsMachines(gearKind, partKind)
        ? {
            ...GUESTS,
            measure: 'system.cpu.utilization',
            isOfProcessors: true,
            words: 'processors they keep busy',
          }
        : null
    case 'ups.output.load':
    case 'ups.battery.minutes_left':
    case 'hw.current':
    case 'hw.power.alone':
      return gearKind === 'ups' || gearKind === 'pdu' ? FED : null
    case 'hw.drive.written':
    case 'hw.drive.life_left':
      return gearKind === 'array'
        ? {
            links: ['stores-on', 'stores-on'],
            kinds: ['machine'],
            measure: 'system.disk.io.write',
            as: 'flow',
            words: 'what they write there',
          }
        : null
    default:
      return null
  }
}

/** The mean of each day of one of those that use a thing up; days that nothing was heard of are missing. */
export interface DailyMeans {
  readonly days: readonly number[]
  readonly means: readonly number[]
}

export interface User extends DailyMeans {
  readonly id: number
  readonly name: string
}

export interface Driver {
  readonly id: number
  readonly name: string
  /** Its newest day. */
  readonly now: number
  /** Change in a day, or for a flow the amount of a day. */
  readonly perDay: number
  /** It was first heard after the time that is looked at had begun. */
  readonly sinceMs: number | null
}

/** A jump of the thing that counts as a one-off, and who made it. */
export interface JumpMade {
  readonly atMs: number
  readonly id: number
  readonly name: string
  readonly size: number
}

export interface Drivers {
  readonly fromMs: number
  readonly toMs: number
  /** The strongest first, in the direction in which the thing is used up. */
  readonly first: readonly Driver[]
  readonly others: { readonly count: number; readonly perDay: number }
  /** Of all together; of the thing itself where it is measured in the same unit. */
  readonly perDay: number
  readonly whole: number | null
  /** Of each jump in that time who made at least half of it; a jump that nobody alone made is left out. */
  readonly jumps: readonly JumpMade[]
  /** Those of whom too little is known: fewer than three days. */
  readonly tooShort: number
}

const LEAST_DAYS = 3
const MOST_DAYS = 30
const LATE_DAYS = 2

/** Since when the growth of a thing is looked for: as long as it has grown as it does now, at most thirty days. */
export function driversSince(growthSinceMs: number | null, nowMs: number): number {
  const longest = nowMs - MOST_DAYS * DAY_MS
  const shortest = nowMs - (LEAST_DAYS + 1) * DAY_MS
  return Math.floor(Math.min(shortest, Math.max(longest, growthSinceMs ?? longest)) / DAY_MS) * DAY_MS
}

/**
 * Change in a day: the slope of the least-squares lines through the means of the days, one slope for all stretches between
 * jumps, each stretch at a height of its own (regression with a dummy for each of them). It is linear in the values, so the
 * slopes of all users of a thing add up to that of the thing, which a median of slopes would not.
 * @param jumpDays the days on which something jumped; they count for nothing themselves
 * @returns NaN for fewer than three days, and where no stretch has two
 */
export function slopeOfDays({ days, means }: DailyMeans, jumpDays: readonly number[] = []): number {
  if (days.length < LEAST_DAYS) return Number.NaN
  const stretches = new Map<number, number[]>()
  for (const [index, day] of days.entries()) {
    if (jumpDays.includes(day)) continue
    const stretch = jumpDays.filter((each) => each < day).length
    stretches.set(stretch, [...(stretches.get(stretch) ?? []), index])
  }
  let cross = 0
  let square = 0
  for (const stretch of stretches.values()) {
    const at = stretch.reduce((sum, index) => sum + days[index]!, 0) / stretch.length
    const mean = stretch.reduce((sum, index) => sum + means[index]!, 0) / stretch.length
    for (const index of stretch) {
      cross += (days[index]! - at) * (means[index]! - mean)
      square += (days[index]! - at) ** 2
    }
  }
  return cross / square
}

/** Jumps on days in a row are one that took longer: its first day, its last, and when it was over. */
function together(jumpsMs: readonly number[]): { first: number; last: number; atMs: number }[] {
  const found: { first: number; last: number; atMs: number }[] = []
  for (const atMs of [...jumpsMs].sort((a, b) => a - b)) {
    const day = Math.floor(atMs / DAY_MS)
    const before = found.at(-1)
    if (before !== undefined && day <= before.last + 1) Object.assign(before, { last: day, atMs })
    else found.push({ first: day, last: day, atMs })
  }
  return found
}

/** Who made at least half of a jump: by the means of the days around it. */
function madeBy(
  users: readonly User[],
  whole: DailyMeans,
  { first, last, atMs }: ReturnType<typeof together>[number],
): JumpMade | null {
  const jumpOf = ({ days, means }: DailyMeans): number => {
    const [before, after] = [means[days.indexOf(first - 1)], means[days.indexOf(last + 1)]]
    return before === undefined || after === undefined ? Number.NaN : after - before
  }
  const size = jumpOf(whole)
  const maker = users
    .map((user) => ({ user, share: jumpOf(user) / size }))
    .filter(({ share }) => share >= 0.5)
    .sort((a, b) => b.share - a.share)[0]
  return maker === undefined
    ? null
    : { atMs, id: maker.user.id, name: maker.user.name, size: jumpOf(maker.user) }
}

/**
 * Who uses a thing up, and how fast.
 * @param whole the thing itself in the same unit, where it is known
 */
export function driversOf(
  users: readonly User[],
  whole: DailyMeans | null,
  {
    fromMs,
    toMs,
    as,
    jumpsMs = [],
    most = 5,
  }: {
    readonly fromMs: number
    readonly toMs: number
    readonly as: DrivenBy['as']
    /** When the thing jumped without that being growth. */
    readonly jumpsMs?: readonly number[]
    readonly most?: number
  },
): Drivers {
  const jumpDays = jumpsMs.map((atMs) => Math.floor(atMs / DAY_MS))
  const firstDay = Math.floor(fromMs / DAY_MS)
  const known = users.filter(({ days }) => days.length >= LEAST_DAYS)
  const drivers = known
    .map((user): Driver => {
      const { id, name, days, means } = user
      return {
        id,
        name,
        now: means.at(-1)!,
        perDay:
          as === 'growth'
            ? slopeOfDays(user, jumpDays)
            : means.reduce((sum, mean) => sum + mean, 0) / means.length,
        sinceMs: days[0]! > firstDay + LATE_DAYS ? days[0]! * DAY_MS : null,
      }
    })
    .filter(({ perDay }) => Number.isFinite(perDay))
    .sort((a, b) => b.perDay - a.perDay || a.name.localeCompare(b.name))
  const rest = drivers.slice(most)
  const sum = (list: readonly Driver[]): number => list.reduce((total, { perDay }) => total + perDay, 0)
  const own = whole === null || as === 'flow' ? Number.NaN : slopeOfDays(whole, jumpDays)
  return {
    fromMs,
    toMs,
    first: drivers.slice(0, most),
    others: { count: rest.length, perDay: sum(rest) },
    perDay: sum(drivers),
    whole: Number.isFinite(own) ? own : null,
    jumps: whole === null ? [] : together(jumpsMs).flatMap((jump) => madeBy(users, whole, jump) ?? []),
    tooShort: users.length - known.length,
  }
}

/**
 * How much of it there is, and how fast it comes: bytes and flows by the day, what changes slowly over the whole time.
 * @param amount how a size is written in the unit of its measure
 */
export function rateWords(
  perDay: number,
  { fromMs, toMs }: Pick<Drivers, 'fromMs' | 'toMs'>,
  isByDay: boolean,
  amount: (value: number) => string,
): string {
  const days = Math.round((toMs - fromMs) / DAY_MS)
  const size = isByDay ? perDay : perDay * days
  const sign = size < 0 ? '−' : '+'
  return `${sign}${amount(Math.abs(size))} ${isByDay ? 'a day' : `in ${days} days`}`
}

/** Less than that of all in thirty days is no growth that anybody would look for. */
const WORTH_NAMING = 0.005

/** Who it is, in a sentence: one that makes up half of what comes, or two that do. */
export function driversSentence({ first, others, perDay }: Drivers, as: DrivenBy['as']): string {
  const count = first.length + others.count
  if (count === 0) return 'Too little is known of what uses it.'
  const rising = first.filter((driver) => driver.perDay > 0)
  const all = rising.reduce((sum, driver) => sum + driver.perDay, 0) + Math.max(0, others.perDay)
  const held = first.reduce((sum, { now }) => sum + Math.abs(now), 0)
  if (all <= 0 || (as === 'growth' && all * MOST_DAYS < WORTH_NAMING * held))
    return count === 1
      ? `${first[0]!.name} does not grow to speak of.`
      : `None of these ${count} grows to speak of.`
  const share = (some: readonly Driver[]): number =>
    Math.round((100 * some.reduce((sum, driver) => sum + driver.perDay, 0)) / all)
  const [one, two] = rising
  const what = as === 'flow' ? 'of it all' : 'of what is added'
  if (one !== undefined && share([one]) >= 50) return `${one.name} makes up ${share([one])} % ${what}.`
  if (one !== undefined && two !== undefined && share([one, two]) >= 50)
    return `${one.name} and ${two.name} make up ${share([one, two])} % ${what}.`
  return `No one or two of ${count} make up half ${what}${perDay < 0 ? '; together they shrink' : ''}.`
}
