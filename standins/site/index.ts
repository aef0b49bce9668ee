import { ARRAYS, CHASSIS, SERVERS } from './servers.ts'
import { CAMERAS, RECORDER, SWITCHES } from './network.ts'
import { COOLINGS } from './climate.ts'
import { GENERATOR, PDUS, UPSES } from './power.ts'

// Kittiwake Sound. Makers, models, serials and people are made up; everything listens on loopback only.

export { ARRAYS, BLADES, CHASSIS, SERVERS } from './servers.ts'
export { ARRAY_OF, HYPERVISOR, HYPERVISORS, STORES, VOLUME_TOKEN, VOLUMES } from './machines.ts'
export { GENERATOR, PDUS, UPSES } from './power.ts'
export { CAMERAS, RECORDER, RECORDER_FAILS_HOURS, SWITCH_COMMUNITY, SWITCHES } from './network.ts'
export { COOLED_BY, COOLING, COOLINGS, HALL_PROBES, INLETS, PROBES, PROBES_TOKEN } from './climate.ts'
export { FLOOR, PLACES, ROOMS } from './rooms.ts'

export const SITE = { name: 'Kittiwake Sound' } as const

// Credentials of the simulated devices. They open nothing but these stand-ins.
export const CONTROLLER_ACCOUNT = { username: 'rack-reader', password: 'only-reads-the-demo' } as const
export const UPS_COMMUNITY = 'harbour-read'
export const UPS_USER = {
  username: 'rackreader',
  authPassword: 'harbour-auth-demo',
  privPassword: 'harbour-priv-demo',
} as const
export const HYPERVISOR_TOKEN = 'rr_demo_petrel-07_pushes_with_this'
export const tokenOf = (host: string): string => `rr_demo_${host}_pushes_with_this`

/** Who is told in the demo, and who signs in. */
export const TEAM = {
  name: 'night team',
  to: 'night-team@kittiwake.example',
  from: 'rack@kittiwake.example',
} as const
/** What the gateway for text messages takes, and what hooks are signed with. */
export const GATEWAY_TOKEN = 'kittiwake-gateway-token'
/** Of the heartbeat that the second installation, at the light station, sends. */
export const BEAT_TOKEN = 'kittiwake-light-station-heartbeat'
/** As we are known to the directory of people, and who stands in it. */
export const DIRECTORY_CLIENT = 'restless-rack'
export const DIRECTORY_SECRET = 'kittiwake-directory-secret'
export const DIRECTORY_PEOPLE = [
  {
    login: 'eir',
    name: 'Eir Solvik',
    email: 'eir@kittiwake.example',
    groups: ['forecast', 'machine-room-nights'],
  },
  { login: 'dag', name: 'Dag Ness', email: 'dag@kittiwake.example', groups: ['machine-room'] },
  { login: 'frode', name: 'Frode Utne', email: 'frode@kittiwake.example', groups: ['harbour-office'] },
] as const
export const HOOK_SECRET = 'kittiwake-hook-secret'
export const DEMO_PASSWORD = 'kittiwake-demo'
export const PEOPLE = [
  { name: 'Asta Holm', email: 'asta@kittiwake.example', role: 'administer' },
  { name: 'Bo Lindqvist', email: 'bo@kittiwake.example', role: 'operate' },
  { name: 'Cleo Marsh', email: 'cleo@kittiwake.example', role: 'see' },
] as const

/** Where a stand-in listens. */
export interface Address {
  readonly host: string
  readonly port: number
}

/** The first of each kind have stood on 127.0.0.1 from the beginning; all others have an address of their own. */
const FIRST = new Set([...SERVERS.slice(0, 4).map(({ name }) => name), 'harbour-A', 'harbour-B', 'brume-1'])
const OWN = [
  ...SERVERS.map(({ name }) => name),
  CHASSIS.name,
  ...ARRAYS.map(({ name }) => name),
  ...PDUS.map(({ name }) => name),
  ...SWITCHES.map(({ name }) => name),
  ...UPSES.map(({ name }) => name),
  ...COOLINGS.map(({ name }) => name),
  GENERATOR.name,
  'hall-gateway',
  ...CAMERAS,
  RECORDER,
].filter((name) => !FIRST.has(name))
/** All of 127.0.0.0/8 is loopback (RFC 1122 §3.2.1.3). */
const hostOf = (name: string): string => `127.0.77.${10 + OWN.indexOf(name)}`

const byName = <Of extends { readonly name: string }>(
  list: readonly Of[],
  first: (index: number) => number,
  port: number,
): Record<string, Address> =>
  Object.fromEntries(
    list.map(({ name }, index): [string, Address] => [
      name,
      FIRST.has(name) ? { host: '127.0.0.1', port: first(index) } : { host: hostOf(name), port },
    ]),
  )

/** Ports of the stand-ins, counted from the installation's port base. None is above base + 36. */
export const portsFrom = (base: number) => ({
  application: base,
  control: base + 10,
  mail: base + 11,
  outside: base + 14,
  /** The directory of people. */
  directory: base + 15,
  /** Where the collector hears syslog. */
  syslog: base + 12,
  redfish: byName([...SERVERS, CHASSIS, ...ARRAYS, ...PDUS], (index) => base + 20 + index, base + 24),
  snmp: byName([...UPSES, ...SWITCHES], (index) => base + 30 + index, base + 25),
  modbus: byName([...COOLINGS, GENERATOR], () => base + 34, base + 34),
  probes: base + 33,
  hallProbes: { host: hostOf('hall-gateway'), port: base + 33 },
  web: byName(
    [...CAMERAS, RECORDER].map((name) => ({ name })),
    () => base + 32,
    base + 32,
  ),
})
export type StandinPorts = ReturnType<typeof portsFrom>
