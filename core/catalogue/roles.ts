import type { PartKind } from './kinds.ts'

/** Where something measures: one line for all sensors of a server would be too high for the air that it draws in. */
export const SENSOR_ROLES = {
  intake: { label: 'Air drawn in', noun: 'intake' },
  exhaust: { label: 'Air blown out', noun: 'exhaust' },
  processor: { label: 'Processor', noun: 'processor' },
  memory: { label: 'Memory', noun: 'memory' },
  drive: { label: 'Drive', noun: 'drive' },
  supply: { label: 'Supply', noun: 'supply' },
  board: { label: 'Board or inside', noun: 'inside' },
} as const
export type SensorRole = keyof typeof SENSOR_ROLES
export const isSensorRole = (value: string): value is SensorRole => Object.hasOwn(SENSOR_ROLES, value)

/** Of PhysicalContext (Redfish, DSP0268, Resource PhysicalContext); in small letters. */
const OF_CONTEXT: Readonly<Record<string, SensorRole>> = {
  intake: 'intake',
  room: 'intake',
  exhaust: 'exhaust',
  cpu: 'processor',
  cpusubsystem: 'processor',
  gpu: 'processor',
  gpusubsystem: 'processor',
  fpga: 'processor',
  accelerator: 'processor',
  asic: 'processor',
  memory: 'memory',
  memorysubsystem: 'memory',
  storagedevice: 'drive',
  storagebay: 'drive',
  storagesubsystem: 'drive',
  powersupply: 'supply',
  powersupplybay: 'supply',
  powersubsystem: 'supply',
  voltageregulator: 'supply',
  acinput: 'supply',
  dcbus: 'supply',
  systemboard: 'board',
  computebay: 'board',
  chassis: 'board',
  backplane: 'board',
  networkingdevice: 'board',
  managementcontroller: 'board',
  back: 'exhaust',
  front: 'intake',
}

const OF_PART: Readonly<Partial<Record<PartKind, SensorRole>>> = {
  processor: 'processor',
  memory: 'memory',
  drive: 'drive',
  supply: 'supply',
}

/** What a part measures at: by what its device says of it, else by what it is. `null` when nobody says. */
export const roleOfPart = (kind: PartKind | null, context: string | null): SensorRole | null =>
  OF_CONTEXT[context?.toLowerCase() ?? ''] ?? (kind === null ? null : (OF_PART[kind] ?? null))
