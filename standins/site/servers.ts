import type { ArraySpec } from '../model/array.ts'
import { S1, S2 } from '../model/drive.ts'
import type { ServerSpec } from '../model/server.ts'

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
  ports: [0, 1].map((port) => `02:6b:00:00:${String(number).padStart(2, '0')}:0${port}`),
  ...rest,
})

/** Those that were first in front. */
export const SERVERS: readonly ServerSpec[] = [
  server('petrel-05', 5),
  server('petrel-06', 6, { driveLifePercent: [88, 87, 89, 88] }),
  server('petrel-07', 7, { driveLifePercent: [94, 93, 93, 95, 18, 92, 91, 95, 96, 94] }),
  server('petrel-08', 8, { driveLifePercent: [71, 70, 72, 71, 70, 69, 72, 71] }),
  server('petrel-01', 1),
  server('petrel-02', 2),
  // Its third drive holds tern-cache, and is worn out six weeks from the first day of the demo.
  server('petrel-03', 3, {
    driveLifePercent: [93, 94, 31, 92, 93, 94],
    wear: { 2: { percentPerDay: 31 / 42, newSinceDays: 92 } },
    tellsPages: true,
  }),
  server('petrel-04', 4),
  // Drives on SATA have no word for their life: it follows from what was written, where the maker's promise is known.
  server('petrel-09', 9, {
    model: 'Norrvik H16',
    memoryModules: 8,
    driveLifePercent: [81, 83, 22, 80],
    wear: { 2: { percentPerDay: 0.19, newSinceDays: 410 } },
    drives: S1,
    tellsPages: true,
    counted: [0, 8, 2, 0].map((reallocated, bay) => ({ reallocated, cable: bay === 3 ? 12 : 0 })),
  }),
  server('petrel-10', 10, {
    model: 'Norrvik H16',
    memoryModules: 8,
    driveLifePercent: [79, 78, 80, 77],
    drives: S2,
    tellsPages: true,
  }),
  // Its second supply never had a cord.
  server('petrel-11', 11, {
    model: 'Norrvik H16',
    memoryModules: 8,
    driveLifePercent: [84, 85, 83, 84],
    withoutCord: [2],
  }),
  server('petrel-12', 12, { model: 'Norrvik H16', memoryModules: 8, driveLifePercent: [90, 91, 90, 89] }),
]

/** The blades of the chassis guillemot. */
export const BLADES: readonly ServerSpec[] = Array.from({ length: 8 }, (_, index) =>
  server(`guillemot-${index + 1}`, 40 + index, {
    model: 'Norrvik B8',
    serial: `NVB8-0${411 + index}`,
    uuid: `6f1c2a4e-0b7d-4c55-9e20-00000000${String(4100 + index)}`,
    driveLifePercent: [92 - index, 91 - index],
    fans: 0,
    memoryModules: 8,
    bays: 2,
    ports: [0, 1].map((port) => `02:6b:00:00:${40 + index}:0${port}`),
  }),
)
export const CHASSIS = { name: 'guillemot', model: 'Norrvik C8', serial: 'NVC8-0017', seed: 501 } as const

const lives = (count: number, around: number, seed: number): number[] =>
  Array.from({ length: count }, (_, index) => around - ((index * 5 + seed) % 7))

/** Two drives of skua-1, side by side in one pool, are of one batch and equally worn. */
/** Volumes of so many TiB each, the first on a day, each other so many days after the one before. */
function volumesOf(sizes: readonly number[], firstDay: number, waits: readonly number[]) {
  return sizes.map((tebibytes, at) => ({
    tebibytes,
    day: firstDay + waits.slice(0, at).reduce((sum, wait) => sum + wait, 0),
  }))
}

export const ARRAYS: readonly ArraySpec[] = [
  {
    name: 'skua-1',
    model: 'Aldermoor V60',
    serial: 'AV60-0128',
    seed: 611,
    driveLifePercent: lives(24, 74, 1).map((life, bay) => (bay === 4 ? 11 : bay === 5 ? 12 : life)),
    batch: { bays: [4, 5], partNumber: 'Q2-7T6-2319', percentPerDay: 0.16 },
    stores: ['gannet-01', 'gannet-02', 'gannet-03', 'gannet-04'],
    promised: { tebibytes: 52, volumes: volumesOf([4, 6, 2, 4, 8, 4, 6], -352, [61, 38, 70, 44, 52, 49]) },
  },
  {
    name: 'skua-2',
    model: 'Aldermoor V60',
    serial: 'AV60-0131',
    seed: 631,
    driveLifePercent: lives(24, 82, 3),
    batch: null,
    stores: ['gannet-05', 'gannet-06', 'gannet-07', 'gannet-08'],
    promised: { tebibytes: 38, volumes: volumesOf([2, 4], -260, [150]) },
  },
]
