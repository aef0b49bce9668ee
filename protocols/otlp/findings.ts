import { isGearKind, isMeasureKey } from '#core/measures'
import type { Findings, GearFinding, LinkFinding, ReadingFinding } from '#core/topology'
import { type ExportRequest, PayloadError } from './codec.ts'

/** Everything that was pushed for one instant. */
export interface Moment {
  readonly atMs: number
  readonly findings: Findings
}

type Attributes = ReadonlyMap<string, string>

/**
 * Turns resources into gear and data points into readings, one moment for each instant that occurs.
 * A resource is a gear when it has `rack.kind` and `host.id` (semantic conventions: the machine's UUID); see
 * docs/otlp.md for the attributes. Metrics that the catalogue does not know are passed over.
 * @throws PayloadError when a resource says that it is a gear and does not say which, or a point has no time.
 */
export function momentsOf(request: ExportRequest): Moment[] {
  const gear: GearFinding[] = []
  const links: LinkFinding[] = []
  const byInstant = new Map<number, ReadingFinding[]>()
  for (const { resource, scopeMetrics } of request.resourceMetrics) {
    const attributes = attributeMap(resource.attributes)
    const found = gearOf(attributes)
    if (found === null) continue
    gear.push(found)
    links.push(...linksOf(found.key, attributes))
    for (const metric of scopeMetrics.flatMap((scope) => scope.metrics)) {
      if (!isMeasureKey(metric.name)) continue
      for (const point of (metric.gauge ?? metric.sum)?.dataPoints ?? []) {
        const atMs = Number(BigInt(point.timeUnixNano) / 1_000_000n)
        if (atMs === 0) throw new PayloadError(`a point of ${metric.name} has no time (timeUnixNano)`)
        const value = point.asDouble ?? (point.asInt === undefined ? null : Number(point.asInt))
        const moment = byInstant.get(atMs) ?? []
        moment.push({ gear: found.key, part: null, measure: metric.name, value })
        byInstant.set(atMs, moment)
      }
    }
  }
  return [...byInstant]
    .sort(([a], [b]) => a - b)
    .map(([atMs, readings]) => ({ atMs, findings: { gear, links, readings } }))
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
  const kind = attributes.get('rack.kind')
  if (kind === undefined) return null
  if (!isGearKind(kind)) throw new PayloadError(`rack.kind is «${kind}»; known are server, machine and store`)
  const id = attributes.get('host.id')
  if (!id) throw new PayloadError(`a resource with rack.kind ${kind} has no host.id`)
  const serial = attributes.get('hw.serial_number')
  const facts = {
    maker: attributes.get('hw.vendor'),
    model: attributes.get('hw.model'),
    system: attributes.get('os.description'),
    cluster: attributes.get('rack.cluster'),
    processors: attributes.get('rack.processors'),
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

function linksOf(key: string, attributes: Attributes): LinkFinding[] {
  const host = attributes.get('rack.host.id')
  const stores = attributes.get('rack.store.ids')?.split(',').filter(Boolean) ?? []
  return [
    ...(host ? [{ kind: 'hosts' as const, from: host, to: key }] : []),
    ...stores.map((store) => ({ kind: 'stores-on' as const, from: key, to: store })),
  ]
}
