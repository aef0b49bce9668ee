import { expect, test } from 'vitest'
import {
  ceilingOf,
  formatReading,
  isMeasureKey,
  MEASURES,
  type MeasureKey,
  measureOf,
  resolutionOf,
} from './index.ts'

test('states are worded, and an unknown one keeps its number', () => {
  expect(formatReading('ups.output.source', 5)).toBe('battery')
  expect(formatReading('ups.output.source', 42)).toBe('state 42')
})

test('a long time is not counted in seconds', () => {
  expect(formatReading('system.uptime', 1650)).toBe('27\u00a0min')
  expect(formatReading('system.uptime', 1_654_000)).toBe('19\u00a0d 3\u00a0h')
  expect(formatReading('ups.battery.seconds_on', 45)).toBe('45\u00a0s')
  expect(formatReading('watch.clock', -40)).toBe('-40\u00a0s')
})

// RFC 1628: upsOutputSource other(1) none(2) normal(3) bypass(4) battery(5) booster(6) reducer(7);
// upsBatteryStatus unknown(1) batteryNormal(2) batteryLow(3) batteryDepleted(4).
test('states of a UPS carry the numbers of RFC 1628', () => {
  expect(Object.keys(measureOf('ups.output.source').states ?? {}).map(Number)).toEqual([1, 2, 3, 4, 5, 6, 7])
  expect(measureOf('ups.battery.status').states).toMatchObject({ 3: 'low', 4: 'depleted' })
})

test('what is shown of a measure has a smallest step', () => {
  expect(resolutionOf('hw.drive.life_left')).toBeCloseTo(0.01)
  expect(resolutionOf('hw.temperature')).toBeCloseTo(0.1)
  expect(resolutionOf('hw.fan.speed')).toBe(1)
})

test('what can be no more than the whole has an end; what can be overloaded has none', () => {
  expect(ceilingOf('system.cpu.utilization')).toBe(1)
  expect(ceilingOf('hw.battery.charge')).toBe(1)
  expect(ceilingOf('ups.output.load')).toBe(Infinity)
  expect(ceilingOf('hw.temperature')).toBe(Infinity)
})

test('every state has words for its values, and only states have', () => {
  for (const key of Object.keys(MEASURES) as MeasureKey[]) {
    expect(measureOf(key).states !== undefined).toBe(measureOf(key).kind === 'state')
  }
  expect(isMeasureKey('toString')).toBe(false)
})
