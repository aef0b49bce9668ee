import type { MeasureKey } from './catalogue.ts'

/** How a gear is drawn: its front from its parts, the way of power through it, or its own readings as a table. */
export type Drawing = 'front' | 'path' | 'readings'

export interface GearKindEntry {
  /** The noun a sentence uses, and that of several. */
  readonly label: string
  readonly plural: string
  readonly drawing: Drawing
  /** It stands in a rack. */
  readonly isRacked: boolean
  /** It stands on the floor, or hangs on a wall or a rack. */
  readonly isFloor: boolean
}

export interface PartKindEntry {
  readonly label: string
  /** Measures that say at a glance how it is, the first that there is. */
  readonly telling: readonly MeasureKey[]
}

// This file, `catalogue.ts` (measures) and `../rules/defaults.ts` (default rules) are the whole catalogue. It is data:
// a kind, a part or a measure that is added here is known to every screen, form, mapping and rule. Its form is checked
// by `kinds.test.ts`.

/** Kinds of gear. */
export const GEAR_KINDS = {
  server: { label: 'Server', plural: 'servers', drawing: 'front', isRacked: true, isFloor: false },
  host: { label: 'Host', plural: 'hosts', drawing: 'front', isRacked: true, isFloor: false },
  chassis: { label: 'Chassis', plural: 'chassis', drawing: 'front', isRacked: true, isFloor: false },
  cluster: { label: 'Cluster', plural: 'clusters', drawing: 'readings', isRacked: false, isFloor: false },
  machine: {
    label: 'Virtual machine',
    plural: 'virtual machines',
    drawing: 'readings',
    isRacked: false,
    isFloor: false,
  },
  array: { label: 'Array', plural: 'arrays', drawing: 'front', isRacked: true, isFloor: false },
  store: { label: 'Datastore', plural: 'datastores', drawing: 'readings', isRacked: false, isFloor: false },
  volume: { label: 'Volume', plural: 'volumes', drawing: 'readings', isRacked: false, isFloor: false },
  switch: { label: 'Switch', plural: 'switches', drawing: 'front', isRacked: true, isFloor: false },
  ups: { label: 'UPS', plural: 'UPS units', drawing: 'path', isRacked: true, isFloor: true },
  pdu: { label: 'PDU', plural: 'PDUs', drawing: 'front', isRacked: true, isFloor: false },
  meter: { label: 'Meter', plural: 'meters', drawing: 'front', isRacked: true, isFloor: false },
  cooling: {
    label: 'Cooling unit',
    plural: 'cooling units',
    drawing: 'front',
    isRacked: false,
    isFloor: true,
  },
  probe: { label: 'Probe', plural: 'probes', drawing: 'front', isRacked: false, isFloor: true },
  door: { label: 'Door', plural: 'doors', drawing: 'readings', isRacked: false, isFloor: true },
  rope: { label: 'Leak rope', plural: 'leak ropes', drawing: 'readings', isRacked: false, isFloor: true },
  camera: { label: 'Camera', plural: 'cameras', drawing: 'readings', isRacked: false, isFloor: true },
  recorder: { label: 'Recorder', plural: 'recorders', drawing: 'readings', isRacked: true, isFloor: false },
  generator: { label: 'Generator', plural: 'generators', drawing: 'front', isRacked: false, isFloor: true },
  selfMonitoring: {
    label: 'Self-monitoring',
    plural: 'selfMonitoring',
    drawing: 'front',
    isRacked: false,
    isFloor: false,
  },
  service: { label: 'Service', plural: 'services', drawing: 'readings', isRacked: false, isFloor: false },
} as const satisfies Record<string, GearKindEntry>
export type GearKind = keyof typeof GEAR_KINDS
export const isGearKind = (value: string): value is GearKind => Object.hasOwn(GEAR_KINDS, value)
/** An entry with its fields as wide as they may be. */
export const gearKindOf = (kind: GearKind): GearKindEntry => GEAR_KINDS[kind]

/** Kinds of parts. */
export const PART_KINDS = {
  fan: { label: 'Fan', telling: ['hw.fan.speed', 'hw.fan.speed_ratio'] },
  supply: { label: 'Supply', telling: ['hw.power'] },
  drive: { label: 'Drive', telling: ['hw.drive.life_left', 'hw.status'] },
  processor: { label: 'Processor', telling: ['hw.temperature', 'hw.status'] },
  memory: { label: 'Memory module', telling: ['hw.status'] },
  sensor: { label: 'Sensor', telling: ['hw.temperature'] },
  battery: { label: 'Battery', telling: ['hw.voltage', 'ups.battery.age'] },
  input: { label: 'Input line', telling: ['hw.voltage'] },
  output: { label: 'Output line', telling: ['hw.voltage'] },
  port: { label: 'Port', telling: ['hw.network.up', 'hw.network.io.receive'] },
  filesystem: { label: 'File system', telling: ['system.filesystem.utilization'] },
  outlet: { label: 'Outlet', telling: ['hw.power', 'hw.outlet.state'] },
  phase: { label: 'Phase', telling: ['hw.current', 'hw.voltage'] },
  leak: { label: 'Leak detector', telling: ['hw.leak'] },
  pump: { label: 'Pump', telling: ['hw.status'] },
  volume: { label: 'Volume', telling: ['system.filesystem.utilization', 'hw.status'] },
  pool: { label: 'Pool', telling: ['system.filesystem.utilization', 'hw.status'] },
  controller: { label: 'Storage controller', telling: ['hw.status'] },
  collector: { label: 'Collector', telling: ['watch.collector'] },
  database: { label: 'Database', telling: ['watch.answer', 'watch.disk'] },
  channel: { label: 'Channel', telling: ['watch.stuck'] },
  messages: { label: 'Messages', telling: ['watch.untried'] },
  heartbeat: { label: 'Heartbeat', telling: ['watch.heartbeat'] },
  register: { label: 'Register', telling: [] },
} as const satisfies Record<string, PartKindEntry>
export type PartKind = keyof typeof PART_KINDS
export const isPartKind = (value: string): value is PartKind => Object.hasOwn(PART_KINDS, value)
export const partKindOf = (kind: PartKind): PartKindEntry => PART_KINDS[kind]

export const LINK_KINDS = ['contains', 'hosts', 'stores-on', 'fed-by', 'cooled-by', 'wired-to'] as const
export type LinkKind = (typeof LINK_KINDS)[number]
