import type { GearKind, MeasureKey, PartKind } from '../catalogue/index.ts'
import type { CounterFinding, Findings, GearFinding, PartFinding, ReadingFinding } from '../gear/index.ts'

/** One series as a far side tells of it, before anybody has said what it means here. */
export interface ToldSeries {
  readonly name: string
  readonly labels: Readonly<Record<string, string>>
  readonly type: string
  /** Empty where none is said. */
  readonly unit: string
  readonly help: string
  /** `null` where it is no number, or has no end. */
  readonly value: number | null
  /** Since when it counts, for a count whose beginning is told; ms since the epoch. */
  readonly countingSinceMs: number | null
}

/**
 * What the series of one metric mean: which gear, which part, which measure. `gear` and `part` may hold labels in
 * braces, `{host}`; an empty `part` is the gear itself.
 */
export interface MappingLine {
  readonly metric: string
  /** Only series with these labels. */
  readonly where: Readonly<Record<string, string>>
  readonly gear: string
  readonly kind: GearKind
  readonly part: string
  readonly partKind: PartKind
  readonly measure: MeasureKey
  /** The value times this is in the unit of the measure. */
  readonly scale: number
  /** It counts up, and its growth a second is the reading. */
  readonly isCount: boolean
}

export interface Mapped {
  readonly findings: Findings
  /** For each series which line took it, or `null`. */
  readonly lines: readonly (number | null)[]
  /** What does not fit together, in sentences. */
  readonly problems: readonly string[]
}

/** Counts keep six decimals: seconds of processor time are counted in fractions. */
const COUNT_STEPS = 1_000_000

/** Places series by the first line that fits each. */
export function mapSeries(
  series: readonly ToldSeries[],
  lines: readonly MappingLine[],
  nowMs: number,
): Mapped {
  const gear = new Map<string, GearFinding & { readonly parts: PartFinding[] }>()
  const readings: ReadingFinding[] = []
  const counters: CounterFinding[] = []
  const problems = new Set<string>()
  const taken = new Set<string>()
  const fits = series.map((each) => {
    const index = lines.findIndex((line) => fitsLine(each, line))
    const line = lines[index]
    if (line === undefined) return null
    const [name, part] = [fill(line.gear, each.labels), fill(line.part, each.labels)]
    if (name === null || part === null || name === '') {
      problems.add(
        name === ''
          ? `${line.metric}: the name of the gear is empty.`
          : `${line.metric}: a series has no label ${missingOf(line, each.labels)}, so it has no place.`,
      )
      return null
    }
    const found = gear.get(name) ?? newGear(name, line.kind)
    if (found.kind !== line.kind)
      problems.add(`${name} is a ${found.kind} by one line and a ${line.kind} by another; the first counts.`)
    gear.set(name, found)
    const partKey = part === '' ? null : `${line.partKind} ${part}`
    const place = JSON.stringify([name, partKey, line.measure])
    if (taken.has(place)) {
      const where = part === '' ? name : `${part} of ${name}`
      problems.add(
        `${line.metric}: several series come to ${where}; the first is kept. Put a label that tells them apart into the part.`,
      )
      return null
    }
    taken.add(place)
    if (partKey !== null && !found.parts.some((known) => known.key === partKey))
      found.parts.push({ key: partKey, kind: line.partKind, name: part, facts: {} })
    const subject = { gear: name, part: partKey, measure: line.measure }
    if (line.isCount) counters.push({ ...subject, ...countOf(each, line.scale, nowMs) })
    else readings.push({ ...subject, value: each.value === null ? null : each.value * line.scale })
    return index
  })
  return {
    findings: {
      gear: [...gear.values()],
      links: [],
      readings,
      ...(counters.length === 0 ? {} : { counters }),
    },
    lines: fits,
    problems: [...problems],
  }
}

export const fitsLine = (series: ToldSeries, { metric, where }: MappingLine): boolean =>
  series.name === metric && Object.entries(where).every(([label, value]) => series.labels[label] === value)

const newGear = (name: string, kind: GearKind): GearFinding & { readonly parts: PartFinding[] } => ({
  key: name,
  kind,
  name,
  identities: [],
  facts: {},
  parts: [],
})

/** `null` when a label is missing. */
function fill(pattern: string, labels: Readonly<Record<string, string>>): string | null {
  let isWhole = true
  const text = pattern.replaceAll(/\{([^{}]*)\}/g, (_, label: string) => {
    const value = Object.hasOwn(labels, label) ? labels[label]! : ''
    if (value === '') isWhole = false
    return value
  })
  return isWhole ? text.trim() : null
}

const missingOf = ({ gear, part }: MappingLine, labels: Readonly<Record<string, string>>): string =>
  [...`${gear} ${part}`.matchAll(/\{([^{}]*)\}/g)]
    .map((match) => match[1]!)
    .filter((label) => !Object.hasOwn(labels, label) || labels[label] === '')
    .join(', ')

function countOf(
  { value, countingSinceMs }: ToldSeries,
  scale: number,
  nowMs: number,
): Pick<CounterFinding, 'value' | 'bits' | 'countingMs' | 'scale'> {
  const isSmall = Math.abs(value ?? 0) < 2 ** 63 / COUNT_STEPS
  // A count without an end is none: `+Inf` can be written in OpenMetrics.
  const isCount = value !== null && value > 0 && Number.isFinite(value)
  const steps = isCount ? Math.round(isSmall ? value * COUNT_STEPS : value) : 0
  return {
    value: BigInt(steps).toString(),
    bits: 64,
    countingMs: countingSinceMs === null || countingSinceMs > nowMs ? null : nowMs - countingSinceMs,
    scale: isSmall ? scale / COUNT_STEPS : scale,
  }
}

interface Guess {
  readonly name: RegExp
  readonly measure: MeasureKey
  readonly partKind: PartKind
  readonly scale?: number
}
/** By the base units of OpenMetrics 1.0 (“Units and Base Units”) at the end of a name, and by what the name says. */
const GUESSES: readonly Guess[] = [
  { name: /celsius$/, measure: 'hw.temperature', partKind: 'sensor' },
  { name: /humidity.*_ratio$/, measure: 'hw.humidity', partKind: 'sensor' },
  { name: /humidity.*_percent$/, measure: 'hw.humidity', partKind: 'sensor', scale: 0.01 },
  { name: /(charge|battery).*_ratio$/, measure: 'hw.battery.charge', partKind: 'battery' },
  { name: /volts$/, measure: 'hw.voltage', partKind: 'sensor' },
  { name: /amperes$/, measure: 'hw.current', partKind: 'sensor' },
  { name: /watts$/, measure: 'hw.power', partKind: 'sensor' },
  { name: /joules_total$/, measure: 'hw.energy', partKind: 'sensor', scale: 1 / 3_600_000 },
  { name: /hertz$/, measure: 'hw.frequency', partKind: 'sensor' },
  { name: /fan.*rpm$/, measure: 'hw.fan.speed', partKind: 'fan' },
  { name: /cpu.*_ratio$/, measure: 'system.cpu.utilization', partKind: 'processor' },
  { name: /memory.*_ratio$/, measure: 'system.memory.utilization', partKind: 'memory' },
  {
    name: /(filesystem|volume|disk).*used.*_bytes$/,
    measure: 'system.filesystem.usage',
    partKind: 'filesystem',
  },
  {
    name: /(filesystem|volume|disk).*(size|capacity|limit).*_bytes$/,
    measure: 'system.filesystem.limit',
    partKind: 'filesystem',
  },
  { name: /(receive|received|rx)_bytes_total$/, measure: 'hw.network.io.receive', partKind: 'port' },
  { name: /(transmit|sent|tx)_bytes_total$/, measure: 'hw.network.io.transmit', partKind: 'port' },
]
const GEAR_LABELS = ['host', 'node', 'server', 'probe', 'device', 'unit', 'rack', 'instance']

/**
 * Lines that are likely meant, for somebody to look through.
 * @param address what the gear is called where no label names it
 */
export function suggestLines(series: readonly ToldSeries[], address: string): MappingLine[] {
  return [...byMetric(series)].flatMap(([metric, own]) => {
    const guess = GUESSES.find(({ name }) => name.test(metric))
    if (guess === undefined) return []
    const gearLabel = GEAR_LABELS.find((label) => own.every((each) => (each.labels[label] ?? '') !== ''))
    const apart = labelsApart(own, gearLabel)
    return [
      {
        metric,
        where: {},
        gear: gearLabel === undefined ? address : `{${gearLabel}}`,
        kind: gearLabel === 'probe' ? ('probe' as const) : ('host' as const),
        part: apart.map((label) => `{${label}}`).join(' '),
        partKind: guess.partKind,
        measure: guess.measure,
        scale: guess.scale ?? 1,
        isCount: guess.measure.startsWith('hw.network.io.'),
      },
    ]
  })
}

/** Series by the name of their metric, in the order in which they are told. */
export function byMetric(series: readonly ToldSeries[]): Map<string, ToldSeries[]> {
  const grouped = new Map<string, ToldSeries[]>()
  for (const each of series) {
    const own = grouped.get(each.name)
    if (own === undefined) grouped.set(each.name, [each])
    else own.push(each)
  }
  return grouped
}

/** Labels by which the series of a metric differ: one, where one is enough. `gearLabel` tells them apart already. */
export function labelsApart(series: readonly ToldSeries[], gearLabel?: string): string[] {
  const countOf = (...labels: string[]): number =>
    new Set(series.map((each) => JSON.stringify(labels.map((label) => each.labels[label])))).size
  const first = gearLabel === undefined ? [] : [gearLabel]
  if (countOf(...first) === series.length) return []
  const names = [...new Set(series.flatMap((each) => Object.keys(each.labels)))].filter(
    (name) => name !== gearLabel && countOf(name) > 1,
  )
  const enough = names.find((name) => countOf(...first, name) === series.length)
  return enough === undefined ? names : [enough]
}
