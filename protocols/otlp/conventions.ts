import { isMeasureKey, type MeasureKey, type PartKind } from '#core/catalogue'

export type Attributes = ReadonlyMap<string, string>

/** Where a point belongs: which part of the gear it speaks of, and as what. */
export interface Place {
  readonly measure: MeasureKey
  readonly part: { readonly key: string; readonly kind: PartKind; readonly name: string } | null
  /** A count that becomes a rate. */
  readonly isCount?: boolean
  /** The value is what is left of one: idle instead of busy. */
  readonly isComplement?: boolean
}

/** `hw.type` of the semantic conventions for hardware. A host or an enclosure is the gear itself. */
const HARDWARE: Readonly<Record<string, PartKind>> = {
  battery: 'battery',
  cpu: 'processor',
  disk_controller: 'controller',
  fan: 'fan',
  memory: 'memory',
  network: 'port',
  physical_disk: 'drive',
  power_supply: 'supply',
  temperature: 'sensor',
  voltage: 'sensor',
}
const ITSELF = new Set(['host', 'enclosure'])

const first = (attributes: Attributes, ...names: string[]): string | undefined =>
  names.map((name) => attributes.get(name)).find((value) => value !== undefined && value !== '')

/**
 * The place of a point, by the OpenTelemetry semantic conventions (`system.*`, `hw.*`), newer and older names of their
 * attributes alike; `null` for what is not read here.
 */
export function placeOf(metric: string, attributes: Attributes): Place | null {
  if (metric === 'system.network.io') return networkPlace(attributes)
  if (metric === 'system.disk.io') return diskPlace(attributes)
  if (metric === 'system.cpu.utilization') return processorPlace(attributes)
  if (metric === 'process.count' || metric === 'system.processes.count') {
    const isPartial = first(attributes, 'status', 'process.status', 'state') !== undefined
    return isPartial ? null : { measure: 'system.process.count', part: null }
  }
  if (!isMeasureKey(metric)) return null
  if (metric.startsWith('hw.')) return hardwarePlace(metric, attributes)
  const state = first(
    attributes,
    'system.memory.state',
    'system.filesystem.state',
    'system.paging.state',
    'state',
  )
  if (state !== undefined && state !== 'used') return null
  if (!metric.startsWith('system.filesystem.')) return { measure: metric, part: null }
  const mount = first(attributes, 'system.filesystem.mountpoint', 'mountpoint')
  return {
    measure: metric,
    part: mount === undefined ? null : { key: `filesystem ${mount}`, kind: 'filesystem', name: mount },
  }
}

function networkPlace(attributes: Attributes): Place | null {
  const direction = first(attributes, 'network.io.direction', 'direction')
  const device = first(attributes, 'network.interface.name', 'device')
  if (device === undefined || (direction !== 'receive' && direction !== 'transmit')) return null
  return {
    measure: `hw.network.io.${direction}`,
    part: { key: `port ${device}`, kind: 'port', name: device },
    isCount: true,
  }
}

/** Only what is told of all devices together: a disk, its partitions and what lies on them count the same bytes again. */
function diskPlace(attributes: Attributes): Place | null {
  const direction = first(attributes, 'disk.io.direction', 'direction')
  if (first(attributes, 'system.device', 'device') !== undefined) return null
  if (direction !== 'read' && direction !== 'write') return null
  return { measure: `system.disk.io.${direction}`, part: null, isCount: true }
}

function processorPlace(attributes: Attributes): Place | null {
  const mode = first(attributes, 'cpu.mode', 'system.cpu.state', 'state')
  const number = first(attributes, 'cpu.logical_number', 'system.cpu.logical_number', 'cpu')
  if (mode !== undefined && mode !== 'idle') return null
  return {
    measure: 'system.cpu.utilization',
    part:
      number === undefined
        ? null
        : { key: `processor ${number}`, kind: 'processor', name: `Processor ${number}` },
    isComplement: mode === 'idle',
  }
}

function hardwarePlace(measure: MeasureKey, attributes: Attributes): Place {
  const id = attributes.get('hw.id')
  const type = attributes.get('hw.type') ?? ''
  if (id === undefined || ITSELF.has(type)) return { measure, part: null }
  const kind = HARDWARE[type] ?? (measure.startsWith('hw.fan.') ? 'fan' : 'sensor')
  return { measure, part: { key: `${kind} ${id}`, kind, name: attributes.get('hw.name') || id } }
}
