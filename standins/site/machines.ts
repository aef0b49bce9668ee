import type { HypervisorSpec, MachineSpec, StoreSpec, Work } from '../model/hypervisor.ts'
import { SERVERS } from './servers.ts'

// About seventy machines with names from the work, on twelve hosts of two clusters, and what they store on.

const storeUuid = (number: number): string => `b7e3f5a0-2f11-4d70-9c02-${String(number).padStart(12, '0')}`

/** The stores, with how each has filled: the year's stories of them are in `model/stores.ts`. */
export const STORES: readonly StoreSpec[] = [
  { name: 'gannet-01', uuid: storeUuid(1), capacityTiB: 12, usedRatio: 0.552, growthPerDay: 0.0006 },
  { name: 'gannet-02', uuid: storeUuid(2), capacityTiB: 8, usedRatio: 0.763, growthPerDay: 0.0011 },
  {
    name: 'gannet-03',
    uuid: storeUuid(3),
    capacityTiB: 18,
    usedRatio: 0.64,
    growthPerDay: 0.0004,
    story: 'fills',
  },
  {
    name: 'gannet-04',
    uuid: storeUuid(4),
    capacityTiB: 16,
    usedRatio: 0.66,
    growthPerDay: 0.0004,
    story: 'copy',
  },
  {
    name: 'gannet-05',
    uuid: storeUuid(5),
    capacityTiB: 10,
    usedRatio: 0.48,
    growthPerDay: 0.0001,
    story: 'sawTooth',
  },
  { name: 'gannet-06', uuid: storeUuid(6), capacityTiB: 6, usedRatio: 0.37, growthPerDay: 0.0002 },
  { name: 'gannet-07', uuid: storeUuid(7), capacityTiB: 6, usedRatio: 0.59, growthPerDay: 0.0005 },
  { name: 'gannet-08', uuid: storeUuid(8), capacityTiB: 4, usedRatio: 0.44, growthPerDay: -0.0001 },
  { name: 'tern-cache', uuid: storeUuid(9), capacityTiB: 3, usedRatio: 0.71, growthPerDay: 0 },
]
/** Which array keeps which stores. */
export const ARRAY_OF: Readonly<Record<string, 'skua-1' | 'skua-2'>> = {
  'gannet-01': 'skua-1',
  'gannet-02': 'skua-1',
  'gannet-03': 'skua-1',
  'gannet-04': 'skua-1',
  'gannet-05': 'skua-2',
  'gannet-06': 'skua-2',
  'gannet-07': 'skua-2',
  'gannet-08': 'skua-2',
}
const store = (name: string): StoreSpec => STORES.find((each) => each.name === name)!

type Family = readonly [
  name: string,
  count: number,
  processors: number,
  memoryGiB: number,
  work: Work,
  store: string,
]

const NORTH: readonly Family[] = [
  ['tide-model', 8, 16, 64, 'model', 'gannet-01'],
  ['surge-model', 6, 16, 48, 'model', 'gannet-03'],
  ['radar-tiles', 6, 8, 48, 'office', 'gannet-02'],
  ['buoy-intake', 5, 4, 16, 'steady', 'gannet-01'],
  ['chart-render', 6, 16, 64, 'oversized', 'gannet-04'],
  ['wave-grid', 6, 8, 48, 'model', 'gannet-03'],
  ['forecast-api', 4, 4, 16, 'office', 'gannet-05'],
  ['ferry-report', 4, 4, 16, 'office', 'gannet-05'],
  ['archive-index', 4, 8, 32, 'steady', 'gannet-04'],
  ['surge-archive', 2, 4, 32, 'idle', 'gannet-02'],
  ['night-copy', 1, 4, 16, 'nightly', 'gannet-05'],
  ['harbour-log', 3, 2, 8, 'idle', 'gannet-05'],
]
const LANTERN: readonly Family[] = [
  ['light-watch', 4, 4, 16, 'steady', 'gannet-06'],
  ['sea-camera', 4, 4, 32, 'office', 'gannet-07'],
  ['radio-relay', 3, 2, 8, 'steady', 'gannet-06'],
  ['fog-model', 4, 16, 96, 'model', 'gannet-08'],
]

/** Whose doing it is that a store grows; the others share what is left. */
const GROWERS: Readonly<Record<string, number>> = {
  'radar-tiles-02': 0.61,
  'radar-tiles-01': 0.22,
  'surge-archive-02': 0.09,
  'wave-grid-04': 0.52,
  'surge-model-02': 0.23,
  'wave-grid-01': 0.08,
  'archive-index-02': 0.8,
  'tide-model-05': 0.34,
  'tide-model-01': 0.3,
  'night-copy-01': 0.7,
  'light-watch-03': 0.4,
  'sea-camera-02': 0.55,
  'fog-model-01': 0.3,
}

/** What each machine has of its store; those of one store share it, whatever host they run on. */
function storedBy(families: readonly Family[]): Map<string, MachineSpec['stored']> {
  const names = families.flatMap(([family, count, , , , storeName]) =>
    Array.from({ length: count }, (_, at) => ({ name: `${family}-${two(at + 1)}`, storeName })),
  )
  return new Map(
    names.map(({ name, storeName }, index) => {
      const others = names.filter((each) => each.storeName === storeName)
      const grown = others.reduce((sum, each) => sum + (GROWERS[each.name] ?? 0), 0)
      const still = others.filter((each) => GROWERS[each.name] === undefined).length
      const unlike = (0.7 + 0.2 * (index % 4)) / others.length
      return [
        name,
        {
          store: store(storeName),
          ofLeast: unlike,
          ofGrowth: GROWERS[name] ?? (1 - grown) / Math.max(1, still),
        },
      ]
    }),
  )
}

const two = (number: number): string => String(number).padStart(2, '0')

/** Those that have run where they are from the first day. */
const SETTLED: Readonly<Record<string, { host: string; uuid: string; share: number }>> = {
  'tide-model-03': { host: 'petrel-07', uuid: 'a1d0c9c2-51aa-4f6e-8a01-0000000000a3', share: 0.3 },
  'radar-tiles-02': { host: 'petrel-07', uuid: 'a1d0c9c2-51aa-4f6e-8a01-0000000000b2', share: 0.22 },
  'buoy-intake-01': { host: 'petrel-07', uuid: 'a1d0c9c2-51aa-4f6e-8a01-0000000000c1', share: 0.1 },
  'surge-archive-01': { host: 'petrel-07', uuid: 'a1d0c9c2-51aa-4f6e-8a01-0000000000d1', share: 0.05 },
}

function machinesOf(
  families: readonly Family[],
  hosts: readonly string[],
  from: number,
): Map<string, MachineSpec[]> {
  const on = new Map<string, MachineSpec[]>(hosts.map((host) => [host, []]))
  let next = 0
  const stored = storedBy(families)
  families.forEach(([family, count, processors, memoryGiB, work, storeName], index) => {
    for (let number = 1; number <= count; number += 1) {
      const name = `${family}-${two(number)}`
      const settled = SETTLED[name]
      const host = settled?.host ?? hosts[next++ % hosts.length]!
      on.get(host)!.push({
        name,
        uuid:
          settled?.uuid ?? `a1d0c9c2-51aa-4f6e-8a02-${String(from + index * 100 + number).padStart(12, '0')}`,
        processors,
        memoryGiB,
        share: settled?.share ?? 0.08 + ((index * 7 + number * 3) % 9) / 40,
        store: storeName,
        stored: stored.get(name)!,
        work,
        ...(name === 'ferry-report-02' ? { sendsSinceDays: 12 } : {}),
      })
    }
  })
  return on
}

const NORTH_HOSTS = ['01', '02', '03', '04', '05', '06', '07', '08'].map((number) => `petrel-${number}`)
const LANTERN_HOSTS = ['09', '10', '11', '12'].map((number) => `petrel-${number}`)
// What has settled on petrel-07 comes first there.
const settledFirst = (list: MachineSpec[]): MachineSpec[] =>
  [...list].sort((a, b) => Number(b.name in SETTLED) - Number(a.name in SETTLED))

/** Each host tells of some of the stores of its cluster; all of them store on all. */
const TELLS: Readonly<Record<string, readonly string[]>> = {
  'petrel-07': ['gannet-01', 'gannet-02'],
  'petrel-01': ['gannet-03'],
  'petrel-02': ['gannet-04'],
  'petrel-03': ['tern-cache'],
  'petrel-04': ['gannet-05'],
  'petrel-09': ['gannet-06'],
  'petrel-10': ['gannet-07'],
  'petrel-11': ['gannet-08'],
}
const NORTH_STORES = ['gannet-01', 'gannet-02', 'gannet-03', 'gannet-04', 'gannet-05']
const LANTERN_STORES = ['gannet-06', 'gannet-07', 'gannet-08']

function hypervisors(
  cluster: string,
  hosts: readonly string[],
  machines: ReadonlyMap<string, MachineSpec[]>,
  stores: readonly string[],
): HypervisorSpec[] {
  return hosts.map((name) => {
    const server = SERVERS.find((each) => each.name === name)!
    return {
      name,
      serial: server.serial,
      uuid: server.uuid,
      model: server.model,
      cluster,
      seed: server.seed,
      memoryGiB: cluster === 'north' ? 512 : 256,
      cores: 64,
      // Since some weeks the lantern hosts hold more than three of them could.
      memoryRatio: cluster === 'north' ? 0.71 : 0.8,
      ...(cluster === 'lantern' ? { memoryBefore: { ratio: 0.66, untilDays: 50 } } : {}),
      machines: settledFirst(machines.get(name)!),
      stores: (TELLS[name] ?? []).map(store),
      storesOn: [...stores, ...(name === 'petrel-03' ? ['tern-cache'] : [])].map((each) => store(each).uuid),
      storeIds: Object.fromEntries(STORES.map((each) => [each.name, each.uuid])),
      arrayOf: ARRAY_OF,
    }
  })
}

/** All hypervisor hosts, the one that was first in front. */
export const HYPERVISORS: readonly HypervisorSpec[] = [
  ...hypervisors('north', NORTH_HOSTS, machinesOf(NORTH, NORTH_HOSTS, 1000), NORTH_STORES),
  ...hypervisors('lantern', LANTERN_HOSTS, machinesOf(LANTERN, LANTERN_HOSTS, 9000), LANTERN_STORES),
].sort((a, b) => Number(b.name === 'petrel-07') - Number(a.name === 'petrel-07'))

/** The hypervisor that runs on petrel-07: the same box as its management controller reports. */
export const HYPERVISOR = HYPERVISORS[0]!

const GIB = 1024 ** 3
const volume = (
  namespace: string,
  name: string,
  number: number,
  sizeGiB: number,
  usedRatio: number,
  pendingSinceDays: number | null = null,
) => ({
  namespace,
  name,
  uuid: `c3a7d6b0-77e1-4c20-b0aa-${String(number).padStart(12, '0')}`,
  capacityBytes: sizeGiB * GIB,
  usedRatio,
  pendingSinceDays,
})

/** Container volumes of the cluster “kelp”, twenty in four namespaces; one claim has been waiting for two days. */
export const VOLUMES = [
  ...['cache-0', 'cache-1', 'cache-2', 'index', 'scratch-1', 'scratch-2'].map((name, at) =>
    volume('tiles', name, 10 + at, 200, 0.42 + at * 0.06),
  ),
  volume('tiles', 'scratch-3', 19, 200, 0, 2),
  ...['queue-0', 'queue-1', 'queue-2', 'raw', 'dead-letters'].map((name, at) =>
    volume('intake', name, 20 + at, 80, 0.18 + at * 0.11),
  ),
  ...['years', 'catalogue', 'checksums', 'restore'].map((name, at) =>
    volume('archive', name, 30 + at, 1500, 0.61 + at * 0.05),
  ),
  ...['sessions', 'uploads', 'pages', 'metrics'].map((name, at) =>
    volume('web', name, 40 + at, 40, 0.22 + at * 0.13),
  ),
] as const
export const VOLUME_TOKEN = 'rr_demo_kelp_pushes_volumes_with_this'
