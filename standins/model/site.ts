import {
  ARRAYS,
  BLADES,
  CAMERAS,
  CHASSIS,
  COOLED_BY,
  COOLINGS,
  GENERATOR,
  HALL_PROBES,
  HYPERVISORS,
  INLETS,
  PDUS,
  PLACES,
  PROBES,
  RECORDER,
  RECORDER_FAILS_HOURS,
  SERVERS,
  STORES,
  SWITCHES,
  UPSES,
  VOLUMES,
} from '../site/index.ts'
import { SimArray } from './array.ts'
import { SimChassis } from './chassis.ts'
import { SimCooling } from './cooling.ts'
import { FaultBoard } from './faults.ts'
import { SimGenerator } from './generator.ts'
import { SimHypervisor } from './hypervisor.ts'
import { noise } from './noise.ts'
import { SimPdu } from './pdu.ts'
import { SimProbes } from './probes.ts'
import { SimServer } from './server.ts'
import { SimSwitch } from './switch.ts'
import { SimUps } from './ups.ts'
import { SimVolumes } from './volumes.ts'

const DAY_MS = 86_400_000
const HOUR_MS = 3_600_000
/** Air in a rack follows what cools it with a lag of some minutes; heat stored in metal and floor sees to that. */
const AIR_LAG_MS = 9 * 60_000
const SUPPLY = { camera: 6, switch: 68, gateway: 9, recorder: 140 }

/** Remembers what a function gave for the moments asked last. */
function remembered(compute: (atMs: number) => number): (atMs: number) => number {
  const known = new Map<number, number>()
  return (atMs) => {
    const before = known.get(atMs)
    if (before !== undefined) return before
    const value = compute(atMs)
    if (known.size > 24_000) known.clear()
    known.set(atMs, value)
    return value
  }
}

/** Air before a rack, °C: it follows the day, the work of all machines, and what cools the rack. */
const airBefore =
  (coolings: readonly SimCooling[], heat: (atMs: number) => number) =>
  (rack: string, atMs: number): number => {
    const day = Math.sin((atMs / DAY_MS - 0.4) * 2 * Math.PI)
    const seed = rack.charCodeAt(0) * 3 + rack.charCodeAt(2)
    let air = (INLETS[rack] ?? 22) + 0.6 * day + 0.3 * noise(seed, atMs, 3_600_000) + 1.2 * (heat(atMs) - 0.4)
    for (const unit of coolings) {
      const most = COOLED_BY[rack]?.[unit.spec.name] ?? 0
      if (most > 0)
        air +=
          most *
          Math.min(
            1,
            unit.faults.followed('stop', atMs, AIR_LAG_MS) +
              0.4 * unit.faults.followed('warm-water', atMs, AIR_LAG_MS),
          )
    }
    return air
  }

/** What the machines keep on the stores of one array. */
const usedOf =
  (hypervisors: readonly SimHypervisor[], stores: readonly string[]) =>
  (atMs: number): number => {
    let used = 0
    for (const sim of hypervisors)
      for (const store of sim.spec.stores)
        if (stores.includes(store.name)) used += sim.storeRatio(store, atMs) * sim.storeCapacityBytes(store)
    return used
  }

function storeOf(hypervisors: readonly SimHypervisor[], name: string, atMs: number) {
  for (const sim of hypervisors)
    for (const store of sim.spec.stores) {
      if (store.name !== name) continue
      const capacityBytes = sim.storeCapacityBytes(store)
      return { capacityBytes, usedBytes: sim.storeRatio(store, atMs) * capacityBytes }
    }
  return { capacityBytes: 0, usedBytes: 0 }
}

/** Cameras and the recorder: each is alive while the port that it hangs on is up, the recorder until it failed. */
function pagesOf(switches: readonly SimSwitch[], startMs: number) {
  const isWired = (name: string, atMs: number): boolean =>
    switches.some((sim) =>
      sim.spec.ports.some((port) => port.neighbour?.name === name && sim.isUp(port, atMs)),
    )
  return [...CAMERAS, RECORDER].map((name) => {
    const faults = new FaultBoard(['silent'])
    return {
      spec: { name },
      faults,
      isAlive: (atMs: number): boolean =>
        !faults.has('silent') &&
        isWired(name, atMs) &&
        (name !== RECORDER || atMs < startMs - RECORDER_FAILS_HOURS * HOUR_MS),
    }
  })
}

type IsFed = (supply: number, atMs: number) => boolean

/** Whether a supply of a gear has power: that of the outlet in which its cord ends; without a cord it always has. */
function feedOf(pdus: readonly SimPdu[]): (gear: string) => IsFed {
  const outlets = new Map(
    pdus.flatMap((pdu) =>
      pdu.spec.cords.map(
        ({ gear, supply }, index) => [`${gear} ${supply}`, { pdu, outlet: index + 1 }] as const,
      ),
    ),
  )
  return (gear) => (supply, atMs) => {
    const cord = outlets.get(`${gear} ${supply}`)
    return cord === undefined || cord.pdu.carries(cord.outlet, atMs)
  }
}

function chassisOf(startMs: number, inlet: (atMs: number) => number, isFed: IsFed): SimChassis {
  const isAnyFed: IsFed = (_, atMs) => [1, 2, 3, 4].some((supply) => isFed(supply, atMs))
  const blades = BLADES.map((spec) => new SimServer(spec, { startMs, inlet, isFed: isAnyFed }))
  return new SimChassis(CHASSIS, { blades, inlet, isFed })
}

export type SimSite = ReturnType<typeof simulatedSite>

/**
 * The site: every gear as simulated, tied together. Load follows the machines' work; what a machine room draws hangs on
 * its feeds; a unit that stops warms the racks near it; a battery drains with what hangs on it.
 * @param startMs when the demo began: what the site has been through is counted from there
 */
export function simulatedSite(startMs: number) {
  const hypervisors = HYPERVISORS.map((spec) => new SimHypervisor(spec, startMs))
  const loads = new Map(hypervisors.map((sim) => [sim.spec.name, remembered((atMs) => sim.load(atMs))]))

  const coolings: SimCooling[] = COOLINGS.map((spec) => new SimCooling(spec, (atMs) => heat(atMs)))
  const heat = remembered((atMs) => {
    const all = [...loads.values()]
    return all.reduce((sum, load) => sum + load(atMs), 0) / all.length
  })
  const inletOf = airBefore(coolings, heat)

  const upses: SimUps[] = UPSES.map(
    (spec) => new SimUps(spec, startMs, { loadWatts: remembered((atMs) => loadOf(spec.name, atMs)) }),
  )
  const upsOf = new Map(upses.map((ups) => [ups.spec.name, ups]))
  const drawn = new Map<string, (supply: number, atMs: number) => number>()
  const pdus: SimPdu[] = PDUS.map(
    (spec) =>
      new SimPdu(spec, {
        watts: (gear, supply, atMs) => drawn.get(gear)?.(supply, atMs) ?? 0,
        isFed: (atMs) => upsOf.get(spec.feed)?.carries(atMs) ?? true,
      }),
  )
  const loadOf = (ups: string, atMs: number): number =>
    pdus.reduce((sum, pdu) => (pdu.spec.feed === ups ? sum + pdu.watts(atMs) : sum), 0)
  const isFed = feedOf(pdus)
  const rackOf = (gear: string): string => PLACES[gear]?.rack ?? 'B09'
  const airOf = (gear: string) => (atMs: number) => inletOf(rackOf(gear), atMs)

  const servers = SERVERS.map((spec) => {
    const load = loads.get(spec.name)
    const ties = { startMs, inlet: airOf(spec.name), isFed: isFed(spec.name) }
    return new SimServer(spec, load === undefined ? ties : { ...ties, load })
  })
  const chassis = chassisOf(startMs, airOf(CHASSIS.name), isFed(CHASSIS.name))
  const arrays = ARRAYS.map(
    (spec) =>
      new SimArray(spec, {
        startMs,
        usedBytes: usedOf(hypervisors, spec.stores),
        store: (name, atMs) => storeOf(hypervisors, name, atMs),
        inlet: airOf(spec.name),
        isFed: isFed(spec.name),
      }),
  )
  for (const sim of [...servers, ...arrays, chassis])
    drawn.set(sim.spec.name, (supply, atMs) => sim.supplyWatts(supply, atMs))
  for (const { name } of SWITCHES) drawn.set(name, () => SUPPLY.switch)
  drawn.set('hall-gateway', () => SUPPLY.gateway)
  drawn.set(RECORDER, () => SUPPLY.recorder)

  const switches = SWITCHES.map((spec) => new SimSwitch(spec, startMs))
  const pages = pagesOf(switches, startMs)
  return {
    startMs,
    servers,
    upses,
    hypervisors,
    chassis,
    arrays,
    pdus,
    switches,
    coolings,
    generator: new SimGenerator(GENERATOR),
    probes: new SimProbes(PROBES, startMs),
    hallProbes: new SimProbes(HALL_PROBES, startMs, inletOf),
    volumes: new SimVolumes({ name: 'kelp', volumes: VOLUMES }, startMs),
    volumeStores: STORES.filter(({ name }) => name === 'gannet-05').map(({ uuid }) => uuid),
    pages,
    inletOf,
  }
}
