/** Kinds of gear this version knows, with the noun a sentence uses. */
export const GEAR_KINDS = {
  server: { label: 'Server', plural: 'servers' },
  host: { label: 'Host', plural: 'hosts' },
  chassis: { label: 'Chassis', plural: 'chassis' },
  machine: { label: 'Virtual machine', plural: 'virtual machines' },
  array: { label: 'Array', plural: 'arrays' },
  store: { label: 'Datastore', plural: 'datastores' },
  volume: { label: 'Volume', plural: 'volumes' },
  switch: { label: 'Switch', plural: 'switches' },
  ups: { label: 'UPS', plural: 'UPS units' },
  pdu: { label: 'PDU', plural: 'PDUs' },
  meter: { label: 'Meter', plural: 'meters' },
  cooling: { label: 'Cooling unit', plural: 'cooling units' },
  probe: { label: 'Probe', plural: 'probes' },
  door: { label: 'Door', plural: 'doors' },
  service: { label: 'Service', plural: 'services' },
} as const
export type GearKind = keyof typeof GEAR_KINDS
export const isGearKind = (value: string): value is GearKind => Object.hasOwn(GEAR_KINDS, value)

export const PART_KINDS = {
  fan: 'Fan',
  supply: 'Supply',
  drive: 'Drive',
  processor: 'Processor',
  memory: 'Memory module',
  sensor: 'Sensor',
  battery: 'Battery',
  input: 'Input line',
  output: 'Output line',
  port: 'Port',
  filesystem: 'File system',
  outlet: 'Outlet',
  phase: 'Phase',
  leak: 'Leak detector',
  pump: 'Pump',
  controller: 'Storage controller',
  register: 'Register',
} as const
export type PartKind = keyof typeof PART_KINDS

export const LINK_KINDS = ['contains', 'hosts', 'stores-on', 'fed-by', 'cooled-by', 'wired-to'] as const
export type LinkKind = (typeof LINK_KINDS)[number]
