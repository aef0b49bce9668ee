/** Kinds of gear this version knows, with the noun a sentence uses. */
export const GEAR_KINDS = {
  server: { label: 'Server', plural: 'servers' },
  ups: { label: 'UPS', plural: 'UPS units' },
  machine: { label: 'Virtual machine', plural: 'virtual machines' },
  store: { label: 'Datastore', plural: 'datastores' },
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
} as const
export type PartKind = keyof typeof PART_KINDS

export const LINK_KINDS = ['contains', 'hosts', 'stores-on', 'fed-by', 'cooled-by', 'wired-to'] as const
export type LinkKind = (typeof LINK_KINDS)[number]
