import type { CoolingSpec } from './model/cooling.ts'
import type { HypervisorSpec } from './model/hypervisor.ts'
import type { ProbesSpec } from './model/probes.ts'
import type { ServerSpec } from './model/server.ts'
import type { UpsSpec } from './model/ups.ts'

// One rack of Kittiwake Sound. Makers, models, serials and people are made up; everything listens on loopback only.

export const SITE = {
  name: 'Kittiwake Sound',
  room: 'Breakwater Hall',
  rack: { name: 'B04', heightUnits: 42 },
} as const

const server = (name: string, number: number, rest: Partial<ServerSpec> = {}): ServerSpec => ({
  name,
  model: 'Norrvik H24',
  serial: `NV24-00${712 + number}`,
  uuid: `6f1c2a4e-0b7d-4c55-9e10-0000000007${String(12 + number)}`,
  seed: 100 + number * 17,
  bays: 12,
  driveLifePercent: [97, 96, 97, 95, 96, 97].map((percent) => percent - number),
  fans: 6,
  memoryModules: 16,
  ...rest,
})

export const SERVERS: readonly ServerSpec[] = [
  server('petrel-05', 5),
  server('petrel-06', 6, { driveLifePercent: [88, 87, 89, 88] }),
  server('petrel-07', 7, { driveLifePercent: [94, 93, 93, 95, 18, 92, 91, 95, 96, 94] }),
  server('petrel-08', 8, { driveLifePercent: [71, 70, 72, 71, 70, 69, 72, 71] }),
]

export const UPSES: readonly UpsSpec[] = [
  { name: 'harbour-A', model: 'Voltessa Keel 6k', seed: 41, fullMinutes: 34, ratedWatts: 5400 },
  { name: 'harbour-B', model: 'Voltessa Keel 6k', seed: 43, fullMinutes: 37, ratedWatts: 5400 },
]

export const COOLING: CoolingSpec = { name: 'brume-1', serial: 'BH20-0031', seed: 61 }

/** Wireless probes in the Lantern Room, heard by one gateway. */
export const PROBES: ProbesSpec = {
  name: 'lantern-gateway',
  seed: 83,
  probes: [
    { name: 'lantern-n', place: 'L01 front', celsius: 21.8 },
    { name: 'lantern-s', place: 'L02 front', celsius: 22.6 },
    { name: 'lantern-rear', place: 'L02 rear', celsius: 31.4 },
    { name: 'lantern-stair', place: 'stairwell', celsius: 17.2 },
  ],
}
export const PROBES_TOKEN = 'lantern-gateway-reads-demo'

const petrel07 = SERVERS[2]!

/** The hypervisor that runs on petrel-07: the same box as its management controller reports. */
export const HYPERVISOR: HypervisorSpec = {
  name: petrel07.name,
  serial: petrel07.serial,
  uuid: petrel07.uuid,
  model: petrel07.model,
  cluster: 'north',
  seed: petrel07.seed,
  memoryGiB: 512,
  machines: [
    {
      name: 'tide-model-03',
      uuid: 'a1d0c9c2-51aa-4f6e-8a01-0000000000a3',
      processors: 16,
      memoryGiB: 128,
      share: 0.3,
      store: 'gannet-01',
    },
    {
      name: 'radar-tiles-02',
      uuid: 'a1d0c9c2-51aa-4f6e-8a01-0000000000b2',
      processors: 8,
      memoryGiB: 64,
      share: 0.22,
      store: 'gannet-02',
    },
    {
      name: 'buoy-intake-01',
      uuid: 'a1d0c9c2-51aa-4f6e-8a01-0000000000c1',
      processors: 4,
      memoryGiB: 16,
      share: 0.1,
      store: 'gannet-01',
    },
    {
      name: 'surge-archive-01',
      uuid: 'a1d0c9c2-51aa-4f6e-8a01-0000000000d1',
      processors: 4,
      memoryGiB: 32,
      share: 0.05,
      store: 'gannet-02',
    },
  ],
  stores: [
    {
      name: 'gannet-01',
      uuid: 'b7e3f5a0-2f11-4d70-9c02-000000000001',
      capacityTiB: 12,
      usedRatio: 0.552,
      growthPerDay: 0.0006,
    },
    {
      name: 'gannet-02',
      uuid: 'b7e3f5a0-2f11-4d70-9c02-000000000002',
      capacityTiB: 8,
      usedRatio: 0.783,
      growthPerDay: 0.002,
    },
  ],
}

/** Where each gear stands in the rack, lowest unit and height. */
export const PLACES: Readonly<Record<string, { unit: number; heightUnits: number }>> = {
  'harbour-A': { unit: 1, heightUnits: 3 },
  'harbour-B': { unit: 4, heightUnits: 3 },
  'petrel-05': { unit: 14, heightUnits: 2 },
  'petrel-06': { unit: 16, heightUnits: 2 },
  'petrel-07': { unit: 18, heightUnits: 2 },
  'petrel-08': { unit: 20, heightUnits: 2 },
}

// Credentials of the simulated devices. They open nothing but these stand-ins.
export const CONTROLLER_ACCOUNT = { username: 'rack-reader', password: 'only-reads-the-demo' } as const
export const UPS_COMMUNITY = 'harbour-read'
export const UPS_USER = {
  username: 'rackreader',
  authPassword: 'harbour-auth-demo',
  privPassword: 'harbour-priv-demo',
} as const
export const HYPERVISOR_TOKEN = 'rr_demo_petrel-07_pushes_with_this'

/** Who is told in the demo, and who signs in. */
export const TEAM = {
  name: 'night team',
  to: 'night-team@kittiwake.example',
  from: 'rack@kittiwake.example',
} as const
export const DEMO_PASSWORD = 'kittiwake-demo'
export const PEOPLE = [
  { name: 'Asta Holm', email: 'asta@kittiwake.example', role: 'administer' },
  { name: 'Bo Lindqvist', email: 'bo@kittiwake.example', role: 'operate' },
  { name: 'Cleo Marsh', email: 'cleo@kittiwake.example', role: 'see' },
] as const

/** Ports of the stand-ins, counted from the installation's port base. */
export const portsFrom = (base: number) => ({
  control: base + 10,
  mail: base + 11,
  /** Where the collector hears syslog. */
  syslog: base + 12,
  controllers: Object.fromEntries(SERVERS.map((each, index) => [each.name, base + 20 + index])),
  cooling: base + 34,
  probes: base + 33,
  upses: Object.fromEntries(UPSES.map((each, index) => [each.name, base + 30 + index])),
})
export type StandinPorts = ReturnType<typeof portsFrom>
