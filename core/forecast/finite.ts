import type { GearKind, MeasureKey, PartKind, SensorRole } from '../catalogue/index.ts'
import type { FiniteKind } from './face.ts'

/** Under which of the filters of what runs out it stands. */
export const TOPICS = ['Space', 'Wear', 'Power', 'Compute', 'Heat'] as const
export type Topic = (typeof TOPICS)[number]

/** What makes a series finite: how it runs out, and how long it takes to get another. */
export interface Finite {
  readonly kind: FiniteKind
  readonly topic: Topic
  readonly direction: 'up' | 'down'
  /** Where it is used up, in the unit of its measure; `null`: only a rule says where its line is. */
  readonly full: number | null
  readonly fullWords: string
  /** Days from an order until it is there. */
  readonly leadDays: number
  /** The measures of the same part that it is a share of: amount and capacity. */
  readonly of?: { readonly amount: MeasureKey; readonly capacity: MeasureKey }
  /** A running total that begins anew when its device is replaced. */
  readonly isCounter?: boolean
  /** The load that it depends on, of the same gear. */
  readonly load?: MeasureKey
  /** Of what grows older with the days and can grow no other way: what is said of it. */
  readonly ages?: string
}

interface Subject {
  readonly measure: MeasureKey
  readonly gearKind: GearKind
  readonly partKind: PartKind | null
  readonly role?: SensorRole | null
}

const SPACE: Finite = {
  kind: 'space',
  topic: 'Space',
  direction: 'up',
  full: 1,
  fullWords: 'full',
  leadDays: 14,
  of: { amount: 'system.filesystem.usage', capacity: 'system.filesystem.limit' },
}
const DEMAND: Finite = {
  kind: 'demand',
  topic: 'Compute',
  direction: 'up',
  full: 1,
  fullWords: 'used up',
  leadDays: 60,
}
/** Of a cluster whose largest host is lost. */
const AFTER_LOSS: Finite = { ...DEMAND, fullWords: 'no host can be lost' }
const WEAR: Finite = {
  kind: 'wear',
  topic: 'Wear',
  direction: 'down',
  full: 0,
  fullWords: 'worn out',
  leadDays: 14,
}
const BY_MEASURE: Readonly<Partial<Record<MeasureKey, Finite>>> = {
  'system.filesystem.utilization': SPACE,
  'system.filesystem.inodes.utilization': {
    kind: 'inodes',
    topic: 'Space',
    direction: 'up',
    full: 1,
    fullWords: 'no inodes left',
    leadDays: 7,
  },
  'hw.pool.promise.utilization': {
    ...SPACE,
    fullWords: 'all is promised',
    of: { amount: 'hw.pool.promise.usage', capacity: 'system.filesystem.limit' },
  },
  'watch.disk': { ...SPACE, of: { amount: 'watch.disk.usage', capacity: 'watch.disk.limit' } },
  'hw.drive.life_left': WEAR,
  'ups.battery.minutes_left': {
    kind: 'runtime',
    topic: 'Power',
    direction: 'down',
    full: 0,
    fullWords: 'empty',
    leadDays: 42,
    load: 'ups.output.load',
  },
  'system.cpu.less_largest': AFTER_LOSS,
  'system.memory.less_largest': AFTER_LOSS,
  'hw.fuel': { kind: 'space', topic: 'Power', direction: 'down', full: 0, fullWords: 'empty', leadDays: 5 },
}
/** Processor and memory are bought for hosts; a machine on one is given more of what there is. */
const BOUGHT_FOR: readonly GearKind[] = ['server', 'cluster']
const HOSTS: readonly MeasureKey[] = ['system.cpu.utilization', 'system.memory.utilization']

/** What can be forecast to run out; whether a series of it is depends on what it is measured of. */
export const FINITE_MEASURES: readonly MeasureKey[] = [
  ...(Object.keys(BY_MEASURE) as MeasureKey[]),
  'hw.drive.written',
  'ups.battery.age',
  ...HOSTS,
  'hw.current',
  'hw.power.alone',
  'ups.output.load',
  'hw.temperature',
]

/** Feeds are made for so much: a breaker or a UPS is bought long before. */
const FEED: Finite = {
  kind: 'power',
  topic: 'Power',
  direction: 'up',
  full: null,
  fullWords: 'overloaded',
  leadDays: 90,
}

const BATTERY_AGE: Finite = {
  ...WEAR,
  topic: 'Power',
  direction: 'up',
  fullWords: 'end of life',
  leadDays: 42,
  ages: 'A battery grows a day older each day; heat makes it fail sooner.',
}

/**
 * How a series runs out; `null` where it does not.
 * @param rated what its maker promises, where that is known, in the unit of the measure: bytes that may be written to a
 * drive that has no word of its own, days that batteries last
 */
export function finiteOf(
  { measure, gearKind, partKind, role }: Subject,
  rated: number | null = null,
): Finite | null {
  if (measure === 'hw.drive.written')
    return rated === null ? null : { ...WEAR, kind: 'written', direction: 'up', full: rated, isCounter: true }
  if (measure === 'ups.battery.age') return rated === null ? null : { ...BATTERY_AGE, full: rated }
  if (HOSTS.includes(measure)) return BOUGHT_FOR.includes(gearKind) && partKind === null ? DEMAND : null
  if (measure === 'hw.current') return partKind === 'phase' ? FEED : null
  if (measure === 'hw.power.alone') return gearKind === 'pdu' && partKind === null ? FEED : null
  if (measure === 'ups.output.load')
    return gearKind === 'ups' && partKind === null ? { ...FEED, full: 1 } : null
  if (measure === 'hw.temperature')
    return role === 'intake'
      ? { ...DEMAND, kind: 'temperature', topic: 'Heat', full: null, fullWords: 'too warm', leadDays: 60 }
      : null
  return BY_MEASURE[measure] ?? null
}

/** One of the lines that a thing must not cross. */
export interface RunOutLine {
  readonly at: number
  readonly words: string
}

/** The line by which it has run out: the graver of those in force, else where it is used up. */
export function lineOf(
  finite: Finite,
  inForce: readonly {
    readonly direction: 'above' | 'below'
    readonly lines: readonly { readonly severity: string; readonly at: number }[]
  }[],
): { readonly main: RunOutLine; readonly others: readonly RunOutLine[] } | null {
  const direction = finite.direction === 'up' ? 'above' : 'below'
  const lines = inForce
    .filter((rule) => rule.direction === direction)
    .flatMap((rule) => rule.lines.map(({ severity, at }) => ({ at, words: severity })))
  const full = finite.full === null ? [] : [{ at: finite.full, words: finite.fullWords }]
  const main = lines.find(({ words }) => words === 'critical') ?? lines[0] ?? full[0]
  if (main === undefined) return null
  return { main, others: [...lines, ...full].filter((line) => line !== main) }
}

/**
 * Where a day ahead stands on the axis, from 0 to 1: the weeks to come are given more room than the months after them.
 */
export const shareOfAxis = (days: number, horizonDays: number): number =>
  Math.min(1, Math.max(0, days / horizonDays) ** 0.6)

interface Due {
  readonly count: number
  /** Of the first ones. */
  readonly names: readonly string[]
}

/**
 * The sentence over all that is ahead: what must be ordered now, then how much runs out within half a year.
 * @param due what must be ordered within a week, and is not
 */
export function aheadSentence({ count, names }: Due, within: number, all: number): string {
  if (all === 0) return 'Nothing is forecast yet.'
  const rest =
    within === 0
      ? `None of ${all} runs out within six months.`
      : `${within} of ${all} ${within === 1 ? 'runs' : 'run'} out within six months.`
  if (count === 0) return `Nothing must be ordered this week. ${rest}`
  const which = count <= 2 ? `: ${names.slice(0, count).join(' and ')}` : ''
  return `${count === 1 ? 'One thing' : `${count} things`} must be ordered this week${which}. ${rest}`
}
