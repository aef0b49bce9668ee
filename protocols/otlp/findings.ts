import { isGearKind } from '#core/catalogue'
import { readDrivePage } from '#core/disks'
import type {
  CounterFinding,
  Findings,
  GearFinding,
  FarLinkFinding,
  MeanFinding,
  PageFinding,
  PartFinding,
  ReadingFinding,
} from '#core/gear'
import { type ExportRequest, PayloadError } from './codec.ts'
import { type Attributes, placeOf } from './conventions.ts'

/** Everything that was pushed for one instant. */
export interface Moment {
  readonly atMs: number
  readonly findings: Findings
}

type Point = NonNullable<Metric['gauge']>['dataPoints'][number]

type Metric = ExportRequest['resourceMetrics'][number]['scopeMetrics'][number]['metrics'][number]

type Distribution = NonNullable<Metric['histogram']>['dataPoints'][number]

/** What was pushed for one gear at one instant. */
interface Pushed {
  readonly readings: ReadingFinding[]
  readonly counters: CounterFinding[]
  readonly means: MeanFinding[]
  readonly pages: PageFinding[]
}

const DELTA = 1
const DRIVE_PAGE = 'rack.drive.page'

/** What an export brings, and what of it nobody here has a place for. */
export interface ReadExport {
  readonly moments: Moment[]
  /** How many points, by the name of their metric. */
  readonly passedOver: ReadonlyMap<string, number>
}

/** The moments alone. */
export const momentsOf = (request: ExportRequest): Moment[] => readExport(request).moments

/**
 * Turns resources into gear and data points into readings, one moment for each instant that occurs.
 * A resource is a gear when it has `rack.kind` and `host.id`; without `rack.kind` it is a host when it has `host.id` or
 * `host.name` and brings something that is read here. See docs/otlp.md for the attributes. Metrics that the conventions
 * do not place are passed over, and counted.
 * @throws PayloadError when a resource says that it is a gear and does not say which, or a point has no time.
 */
export function readExport(request: ExportRequest): ReadExport {
  const passedOver = new Map<string, number>()
  const pass = (metric: string, points = 1): void => {
    passedOver.set(metric, (passedOver.get(metric) ?? 0) + points)
  }
  const gear = new Map<string, GearFinding>()
  const links: FarLinkFinding[] = []
  const byInstant = new Map<number, Pushed>()
  for (const { resource, scopeMetrics } of request.resourceMetrics) {
    const attributes = attributeMap(resource.attributes)
    const found = gearOf(attributes)
    const metrics = scopeMetrics.flatMap((scope) => scope.metrics)
    if (found === null) {
      for (const metric of metrics) pass(metric.name, pointsOf(metric))
      continue
    }
    const parts = new Map<string, PartFinding>()
    const before = countPoints(byInstant)
    for (const metric of metrics) {
      const { gauge, sum } = metric
      const of = { metric: metric.name, gear: found.key, parts, byInstant }
      const isDelta = sum?.aggregationTemporality === DELTA
      for (const point of (gauge ?? sum)?.dataPoints ?? [])
        if (!takePoint(point, { ...of, isDelta })) pass(metric.name)
      for (const spread of [metric.histogram, metric.exponentialHistogram, metric.summary])
        for (const point of spread?.dataPoints ?? [])
          if (!takeDistribution(point, { ...of, isDelta: spread!.aggregationTemporality === DELTA }))
            pass(metric.name)
    }
    const isGear = attributes.has('rack.kind') || countPoints(byInstant) > before
    if (!isGear) continue
    links.push(...linksOf(found.key, attributes))
    // Senders may tell of one host in several resources.
    const known = gear.get(found.key)
    const all = new Map([...(known?.parts ?? []).map((part) => [part.key, part] as const), ...parts])
    gear.set(found.key, {
      ...found,
      ...known,
      facts: { ...known?.facts, ...found.facts },
      parts: [...all.values()],
    })
  }
  const moments = [...byInstant]
    .sort(([a], [b]) => a - b)
    .map(([atMs, { readings, counters, means, pages }]) => ({
      atMs,
      findings: {
        gear: [...gear.values()],
        links: [],
        ...(links.length === 0 ? {} : { farLinks: links }),
        readings: [...readings, ...meansOf(readings)],
        ...(counters.length === 0 ? {} : { counters }),
        ...(means.length === 0 ? {} : { means }),
        ...(pages.length === 0 ? {} : { pages }),
      },
    }))
  return { moments, passedOver }
}

const pointsOf = (metric: Metric): number =>
  [metric.gauge, metric.sum, metric.histogram, metric.exponentialHistogram, metric.summary].reduce(
    (total, each) => total + (each?.dataPoints.length ?? 0),
    0,
  )

const countPoints = (byInstant: ReadonlyMap<number, Pushed>): number =>
  [...byInstant.values()].reduce(
    (total, each) => total + each.readings.length + each.counters.length + each.means.length,
    0,
  )

/** Of which metric and which gear a point is, and where it goes. */
interface Taking {
  readonly metric: string
  readonly gear: string
  readonly parts: Map<string, PartFinding>
  readonly byInstant: Map<number, Pushed>
  readonly isDelta: boolean
}

/**
 * Of a distribution its mean is read: of this point alone where it is delta, otherwise of what came since the last.
 * @returns whether there is a place for it
 */
function takeDistribution(point: Distribution, of: Taking): boolean {
  const place = placeOf(of.metric, attributeMap(point.attributes))
  if (place === null || place.isCount === true || point.sum === undefined) return false
  const { measure, part } = place
  if (part !== null) of.parts.set(part.key, { ...part, facts: {} })
  const { readings, means } = pushedAt(of.byInstant, instantOf(point, of.metric))
  const subject = { gear: of.gear, part: part?.key ?? null, measure }
  const count = Number(point.count)
  if (of.isDelta) readings.push({ ...subject, value: count > 0 ? point.sum / count : null })
  else means.push({ ...subject, count, sum: point.sum })
  return true
}

function instantOf(point: Pick<Point, 'timeUnixNano'>, metric: string): number {
  const atMs = Number(BigInt(point.timeUnixNano) / 1_000_000n)
  if (atMs === 0) throw new PayloadError(`a point of ${metric} has no time (timeUnixNano)`)
  return atMs
}

function pushedAt(byInstant: Map<number, Pushed>, atMs: number): Pushed {
  const pushed = byInstant.get(atMs) ?? { readings: [], counters: [], means: [], pages: [] }
  byInstant.set(atMs, pushed)
  return pushed
}

/**
 * A page of a drive as its host read it, in attributes of the point: decoded here, so that the host needs to know nothing
 * of it. A page that cannot be one is refused with the name of its drive.
 */
function takeDrivePage(point: Point, attributes: Attributes, of: Taking): void {
  const id = attributes.get('hw.id')
  if (!id) throw new PayloadError(`a point of ${DRIVE_PAGE} has no hw.id: which drive is it of?`)
  const name = attributes.get('hw.name') || id
  const octets = (attribute: string): Buffer | null => {
    const text = attributes.get(attribute)
    return text ? Buffer.from(text, 'base64') : null
  }
  const [data, thresholds] = [octets('rack.page.data'), octets('rack.page.thresholds')]
  const kind = attributes.get('rack.page.kind')
  if (data === null || (kind !== 'nvme-health' && kind !== 'ata-smart'))
    throw new PayloadError(
      `drive ${name}: rack.page.kind is “${kind ?? ''}”; known are nvme-health and ata-smart, with rack.page.data in base64`,
    )
  const key = `drive ${id}`
  const facts = {
    model: attributes.get('hw.model'),
    serial: attributes.get('hw.serial_number'),
    firmware: attributes.get('hw.firmware_version'),
  }
  try {
    const page = readDrivePage(kind === 'nvme-health' ? { kind, data } : { kind, data, thresholds })
    const all = Object.entries({ ...facts, ...page.facts }).filter((entry): entry is [string, string] =>
      Boolean(entry[1]),
    )
    of.parts.set(key, { key, kind: 'drive', name, facts: Object.fromEntries(all) })
    const { readings, pages } = pushedAt(of.byInstant, instantOf(point, of.metric))
    for (const reading of page.readings) readings.push({ gear: of.gear, part: key, ...reading })
    const limits = kind === 'ata-smart' ? (thresholds?.toString('base64') ?? null) : null
    pages.push({ gear: of.gear, part: key, kind, data: data.toString('base64'), thresholds: limits })
  } catch (error) {
    if (error instanceof RangeError) throw new PayloadError(`drive ${name}: ${error.message}`)
    throw error
  }
}

/** @returns whether there is a place for it */
function takePoint(point: Point, of: Taking): boolean {
  const attributes = attributeMap(point.attributes)
  if (of.metric === DRIVE_PAGE) {
    takeDrivePage(point, attributes, of)
    return true
  }
  const place = placeOf(of.metric, attributes)
  if (place === null) return false
  const atMs = instantOf(point, of.metric)
  const startMs = Number(BigInt(point.startTimeUnixNano ?? 0) / 1_000_000n)
  const { measure, part, isCount, isComplement } = place
  // A change of something that is not counted says nothing of where it stands.
  if (of.isDelta && isCount !== true) return false
  if (part !== null) of.parts.set(part.key, { ...part, facts: {} })
  const pushed = pushedAt(of.byInstant, atMs)
  const subject = { gear: of.gear, part: part?.key ?? null, measure }
  const value = point.asDouble ?? (point.asInt === undefined ? null : Number(point.asInt))
  if (isCount !== true) {
    pushed.readings.push({ ...subject, value: value === null || isComplement !== true ? value : 1 - value })
  } else if (of.isDelta) {
    const seconds = (atMs - startMs) / 1000
    const isKnown = value !== null && startMs > 0 && seconds > 0
    pushed.readings.push({ ...subject, value: isKnown ? value / seconds : null })
  } else {
    const whole = wholeOf(point)
    if (whole === null) return false
    const countingMs = startMs > 0 && startMs < atMs ? atMs - startMs : null
    pushed.counters.push({ ...subject, value: whole, bits: 64, countingMs })
  }
  return true
}

/** A count in decimal, or `null` when it is none. */
function wholeOf({ asInt, asDouble }: Point): string | null {
  if (asInt !== undefined) return /^\d{1,20}$/.test(String(asInt)) ? String(asInt) : null
  return asDouble !== undefined && asDouble >= 0 && Number.isFinite(asDouble)
    ? BigInt(Math.round(asDouble)).toString()
    : null
}

/** The use of all processors, where a host tells only of each. */
function meansOf(readings: readonly ReadingFinding[]): ReadingFinding[] {
  const own = readings.filter((each) => each.measure === 'system.cpu.utilization')
  const hosts = [...new Set(own.map((each) => each.gear))]
  return hosts.flatMap((gear) => {
    const each = own.filter((reading) => reading.gear === gear)
    const values = each.flatMap(({ value }) => (value === null ? [] : [value]))
    if (values.length === 0 || each.some((reading) => reading.part === null)) return []
    const mean = values.reduce((sum, value) => sum + value, 0) / values.length
    return [{ gear, part: null, measure: 'system.cpu.utilization' as const, value: mean }]
  })
}

function attributeMap(list: ExportRequest['resourceMetrics'][number]['resource']['attributes']): Attributes {
  return new Map(
    list.map(({ key, value }) => [
      key,
      String(value?.stringValue ?? value?.intValue ?? value?.doubleValue ?? value?.boolValue ?? ''),
    ]),
  )
}

function gearOf(attributes: Attributes): GearFinding | null {
  const kind = attributes.get('rack.kind') ?? 'host'
  const isSaid = attributes.has('rack.kind')
  if (!isGearKind(kind))
    throw new PayloadError(`rack.kind is “${kind}”; known are server, machine, store and volume`)
  const id = attributes.get('host.id') || (isSaid ? '' : attributes.get('host.name'))
  if (!id && !isSaid) return null
  if (!id) throw new PayloadError(`a resource with rack.kind ${kind} has no host.id`)
  const serial = attributes.get('hw.serial_number')
  const facts = {
    maker: attributes.get('hw.vendor'),
    model: attributes.get('hw.model'),
    system: attributes.get('os.description'),
    cluster: attributes.get('rack.cluster'),
    processors: attributes.get('rack.processors'),
    namespace: attributes.get('k8s.namespace.name'),
  }
  return {
    key: id,
    kind,
    name: attributes.get('host.name') || id,
    identities: [
      { kind: 'uuid', value: id },
      ...(serial ? [{ kind: 'serial' as const, value: serial }] : []),
    ],
    facts: Object.fromEntries(
      Object.entries(facts).filter((entry): entry is [string, string] => Boolean(entry[1])),
    ),
    parts: [],
  }
}

/** What it runs and stores on. The other end may be pushed by the same sender or another, or be asked by its own protocol. */
function linksOf(key: string, attributes: Attributes): FarLinkFinding[] {
  const list = (name: string): string[] => attributes.get(name)?.split(',').filter(Boolean) ?? []
  const far = (id: string) => ({ identities: [{ kind: 'uuid' as const, value: id }], name: null, part: null })
  const common = { gear: key, part: null }
  return [
    ...list('rack.host.id').map((id) => ({ ...common, kind: 'hosts' as const, isFrom: false, far: far(id) })),
    ...list('rack.store.ids').map((id) => ({
      ...common,
      kind: 'stores-on' as const,
      isFrom: true,
      far: far(id),
    })),
    // An array has a serial number, and no UUID that a host could know.
    ...list('rack.array.serials').map((serial) => ({
      ...common,
      kind: 'stores-on' as const,
      isFrom: true,
      far: { identities: [{ kind: 'serial' as const, value: serial }], name: null, part: null },
    })),
  ]
}
