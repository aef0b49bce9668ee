import type { SwitchSpec } from '../model/switch.ts'
import { BLADES, SERVERS } from './servers.ts'

const two = (number: number): string => String(number).padStart(2, '0')
const hall = SERVERS.filter(({ name }) => Number(name.slice(-2)) <= 8).sort((a, b) =>
  a.name.localeCompare(b.name),
)
const lantern = SERVERS.filter(({ name }) => Number(name.slice(-2)) >= 9)

type Port = SwitchSpec['ports'][number]
const port = (number: number, rest: Partial<Port> = {}): Port => ({
  name: `xe-${two(number)}`,
  speedMbps: 10_000,
  busy: 0.08,
  neighbour: null,
  ...rest,
})
const toServer = (number: number, server: { name: string; ports?: readonly string[] }, nic: number): Port =>
  port(number, { neighbour: { name: server.name, mac: server.ports![nic]!, port: `nic ${nic}` } })
const toNamed = (number: number, name: string, portName: string, rest: Partial<Port> = {}): Port =>
  port(number, { neighbour: { name, mac: null, port: portName }, ...rest })
const spare = (from: number, to: number): Port[] =>
  Array.from({ length: to - from + 1 }, (_, index) => port(from + index, { busy: 0 }))

/** Four switches, and the two interconnects of the chassis. Ports without a neighbour and without traffic are not in use. */
export const SWITCHES: readonly SwitchSpec[] = [
  {
    name: 'reef-1',
    number: 1,
    seed: 301,
    ports: [
      ...hall.map((server, index) => toServer(index + 1, server, 0)),
      toNamed(9, 'shoal-1', 'xe-20', { busy: 0.3 }),
      toNamed(10, 'reef-3', 'xe-20', { busy: 0.42 }),
      toNamed(11, 'reef-2', 'xe-11', { busy: 0.15 }),
      // The radio link to the light station.
      toNamed(12, 'reef-4', 'radio-0', { name: 'radio-1', speedMbps: 400, busy: 0.35, flapsSinceDays: 3 }),
      ...spare(13, 24),
    ],
  },
  {
    name: 'reef-2',
    number: 2,
    seed: 311,
    ports: [
      ...hall.map((server, index) => toServer(index + 1, server, 1)),
      toNamed(9, 'shoal-2', 'xe-20', { busy: 0.28 }),
      toNamed(10, 'reef-3', 'xe-21', { busy: 0.37 }),
      toNamed(11, 'reef-1', 'xe-11', { busy: 0.15 }),
      ...spare(12, 16),
      // The port of the recorder failed some hours ago.
      toNamed(17, 'recorder', 'lan', { speedMbps: 1000, busy: 0.5, failsSinceHours: 7 }),
      ...['camera-north', 'camera-aisle', 'camera-yard'].map((name, index) =>
        toNamed(18 + index, name, 'lan', { speedMbps: 100, busy: 0.12 }),
      ),
      toNamed(21, 'hall-gateway', 'lan', { speedMbps: 100, busy: 0.01 }),
      ...spare(22, 24),
    ],
  },
  {
    name: 'reef-3',
    number: 3,
    seed: 321,
    ports: [
      toNamed(1, 'skua-1', 'a', { speedMbps: 25_000, busy: 0.3 }),
      toNamed(2, 'skua-1', 'b', { speedMbps: 25_000, busy: 0.28 }),
      toNamed(3, 'skua-2', 'a', { speedMbps: 25_000, busy: 0.18 }),
      toNamed(4, 'skua-2', 'b', { speedMbps: 25_000, busy: 0.17 }),
      ...spare(5, 19),
      toNamed(20, 'reef-1', 'xe-10', { busy: 0.42 }),
      toNamed(21, 'reef-2', 'xe-10', { busy: 0.37 }),
    ],
  },
  {
    name: 'reef-4',
    number: 4,
    seed: 331,
    ports: [
      ...lantern.map((server, index) => toServer(index + 1, server, 0)),
      toNamed(5, 'lantern-gateway', 'lan', { speedMbps: 100, busy: 0.01 }),
      toNamed(6, 'camera-lantern', 'lan', { speedMbps: 100, busy: 0.12 }),
      ...spare(7, 11),
      toNamed(12, 'reef-1', 'radio-1', { name: 'radio-0', speedMbps: 400, busy: 0.35, flapsSinceDays: 3 }),
    ],
  },
  ...[1, 2].map((number): SwitchSpec => ({
    name: `shoal-${number}`,
    number: 4 + number,
    seed: 331 + number * 10,
    ports: [
      ...BLADES.map((blade, index) => toServer(index + 1, blade, number - 1)),
      ...spare(9, 19),
      toNamed(20, `reef-${number}`, 'xe-09', { busy: 0.3 }),
    ],
  })),
]
export const SWITCH_COMMUNITY = 'reef-read'

/** Network cameras and what records them, by whether they answer. */
export const CAMERAS = ['camera-north', 'camera-aisle', 'camera-yard', 'camera-lantern'] as const
export const RECORDER = 'recorder'
export const RECORDER_FAILS_HOURS = 7
