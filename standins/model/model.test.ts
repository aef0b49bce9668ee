import { describe, expect, test } from 'vitest'
import { HYPERVISOR, HYPERVISORS, SERVERS, STORES, UPSES } from '../site/index.ts'
import { hypervisorPayload } from '../hypervisor/payload.ts'
import { SimHypervisor } from './hypervisor.ts'
import { SimServer } from './server.ts'
import { simulatedSite } from './site.ts'
import { SimUps } from './ups.ts'

const START = Date.UTC(2026, 10, 24)
const MINUTE = 60_000

describe('a UPS', () => {
  test('drains minute for minute without mains, and charges again with it', () => {
    const ups = new SimUps(UPSES[0]!, START)
    ups.faults.cause('lose-mains', null, START + MINUTE)
    expect(ups.minutesLeft(START + MINUTE)).toBeCloseTo(34)
    expect(ups.minutesLeft(START + 11 * MINUTE)).toBeCloseTo(24)
    expect(ups.secondsOnBattery(START + 11 * MINUTE)).toBe(600)
    expect(ups.alarms(START + 11 * MINUTE)).toEqual([2, 6])
    ups.faults.mend()
    expect(ups.minutesLeft(START + 11 * MINUTE)).toBeCloseTo(24)
    expect(ups.minutesLeft(START + 30 * MINUTE)).toBeGreaterThan(24)
    expect(ups.minutesLeft(START + 500 * MINUTE)).toBe(34)
  })
  test('comes to its end, and not beyond', () => {
    const ups = new SimUps(UPSES[0]!, START)
    ups.faults.cause('lose-mains', null, START, 10)
    expect(ups.minutesLeft(START + MINUTE)).toBeCloseTo(24)
    expect(ups.minutesLeft(START + 60 * MINUTE)).toBe(0)
    expect(ups.batteryStatus(START + 60 * MINUTE)).toBe(4)
  })
})

describe('a server', () => {
  test('is the same at the same time, and warms when a fan stops', () => {
    const [a, b] = [new SimServer(SERVERS[2]!), new SimServer(SERVERS[2]!)]
    expect(a.outletCelsius(START)).toBe(b.outletCelsius(START))
    a.faults.cause('stop-fan', '3', START)
    expect(a.fanRpm(3, START + MINUTE)).toBe(0)
    expect(a.fanRpm(2, START + MINUTE)).toBeGreaterThan(b.fanRpm(2, START + MINUTE))
    expect(a.outletCelsius(START + 10 * MINUTE) - b.outletCelsius(START + 10 * MINUTE)).toBeCloseTo(6, 1)
  })
  test('stays within its default lines over a day when well', () => {
    for (const spec of SERVERS) {
      const server = new SimServer(spec)
      for (let minute = 0; minute < 1440; minute += 7) {
        const at = START + minute * MINUTE
        expect(server.outletCelsius(at)).toBeLessThan(45)
        expect(server.processorCelsius(1, at)).toBeLessThan(85)
        expect(server.fanRpm(1, at)).toBeGreaterThan(2400)
      }
    }
  })
  test('an unknown fault is named with those that are known', () => {
    expect(() => new SimServer(SERVERS[0]!).faults.cause('explode', null, START)).toThrow(
      /“explode”.*stop-fan/,
    )
  })
})

test('a store fills, and its payload says so in bytes and as a ratio', () => {
  const sim = new SimHypervisor(HYPERVISOR, START)
  sim.faults.cause('fill-store', 'gannet-02', START)
  const ratio = (atMs: number): number =>
    hypervisorPayload(sim, atMs).resourceMetrics.at(-1)!.scopeMetrics[0]!.metrics[0]!.gauge!.dataPoints[0]!
      .asDouble!
  expect(ratio(START + 15 * MINUTE) - ratio(START)).toBeCloseTo(0.1, 2)
  expect(ratio(START + 300 * MINUTE)).toBeLessThanOrEqual(0.97)
})

test.each([-365, -30, 0, 3])(
  'machines hold of each store nearly all, and never more than there is, day %i',
  (day) => {
    const at = START + day * 1440 * MINUTE
    const sims = HYPERVISORS.map((spec) => new SimHypervisor(spec, START))
    for (const store of STORES.filter(({ name }) => name !== 'tern-cache')) {
      const held = sims
        .flatMap((sim) =>
          sim.spec.machines.map((machine) => ({ machine, bytes: sim.machineStoredBytes(machine, at) })),
        )
        .filter(({ machine }) => machine.store === store.name)
        .reduce((sum, { bytes }) => sum + bytes, 0)
      const used = sims[0]!.storeRatio(store, at) * sims[0]!.storeCapacityBytes(store)
      expect(held / used, store.name).toBeGreaterThan(0.7)
      expect(held / used, store.name).toBeLessThan(1)
    }
  },
)

describe('the site hangs together', () => {
  const named = <Of extends { spec: { name: string } }>(list: readonly Of[], name: string): Of =>
    list.find(({ spec }) => spec.name === name)!
  test('a unit that stops warms the racks near it with a lag, the far ones less; mended, they cool the same way', () => {
    const [sick, well] = [simulatedSite(START), simulatedSite(START)]
    const brume = named(sick.coolings, 'brume-2')
    brume.faults.cause('stop', null, START)
    const warmer = (rack: string, minutes: number): number =>
      sick.inletOf(rack, START + minutes * MINUTE) - well.inletOf(rack, START + minutes * MINUTE)
    // One lag of nine minutes: 1 − 1/e of the nine degrees that it comes to.
    expect(warmer('B05', 9)).toBeCloseTo(9 * (1 - Math.exp(-1)), 2)
    expect(warmer('B05', 90)).toBeCloseTo(9, 1)
    expect(warmer('B06', 90)).toBeLessThan(1)
    brume.faults.mend('stop', null, START + 90 * MINUTE)
    expect(warmer('B05', 99)).toBeCloseTo(9 * Math.exp(-1), 1)
    expect(warmer('B05', 180)).toBeLessThan(0.1)
  })
  test('without mains a battery is drained the faster the more hangs on it', () => {
    const at = (watts: number): SimUps => {
      const ups = new SimUps(UPSES[0]!, START, { loadWatts: () => watts })
      ups.faults.cause('lose-mains', null, START)
      return ups
    }
    const [light, heavy] = [at(1500), at(4000)]
    expect(light.chargePercent(START + 10 * MINUTE)).toBeGreaterThan(
      heavy.chargePercent(START + 10 * MINUTE) + 20,
    )
    // At the load that its minutes are given for, it lasts as long.
    expect(at(UPSES[0]!.ratedWatts * 0.55).minutesLeft(START + MINUTE)).toBeCloseTo(
      UPSES[0]!.fullMinutes - 1,
      1,
    )
  })
  test('with the battery empty what hangs on it alone is off, and the other feed carries the rest', () => {
    const site = simulatedSite(START)
    const [a, b] = [named(site.upses, 'harbour-A'), named(site.upses, 'harbour-B')]
    const before = b.outputWatts(START + MINUTE)
    a.faults.cause('lose-mains', null, START, 120)
    for (let seconds = 5; seconds <= 120; seconds += 5) a.charge(START + seconds * 1000)
    const end = START + 2 * MINUTE + 1
    expect(a.carries(end)).toBe(false)
    expect(named(site.servers, 'petrel-06').isOn(end)).toBe(false)
    expect(named(site.servers, 'petrel-05').isOn(end)).toBe(true)
    expect(b.outputWatts(end)).toBeGreaterThan(before * 1.5)
  })
  test('what a server draws follows the work of its machines', () => {
    const site = simulatedSite(START)
    const host = named(site.hypervisors, 'petrel-01')
    const server = named(site.servers, 'petrel-01')
    const times = Array.from({ length: 48 }, (_, index) => START + index * 30 * MINUTE)
    const busy = times.toSorted((x, y) => host.load(y) - host.load(x))
    expect(server.watts(busy[0]!)).toBeGreaterThan(server.watts(busy.at(-1)!) + 40)
  })
})
