import { describe, expect, test } from 'vitest'
import { HYPERVISOR, SERVERS, UPSES } from '../site.ts'
import { hypervisorPayload } from '../hypervisor/payload.ts'
import { SimHypervisor } from './hypervisor.ts'
import { SimServer } from './server.ts'
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
      /«explode».*stop-fan/,
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
