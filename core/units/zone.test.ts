import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { instantOf, wallClock } from './index.ts'

// Clocks in Oslo go forward at 01:00 UTC on 29 March 2026, and back at 01:00 UTC on 25 October 2026.
describe('clocks of a zone', () => {
  test.each([
    ['in winter', '2026-01-10T12:00:00Z', '2026-01-10T13:00:00Z'],
    ['in summer', '2026-07-10T12:00:00Z', '2026-07-10T14:00:00Z'],
    ['the moment before they go forward', '2026-03-29T00:59:59Z', '2026-03-29T01:59:59Z'],
    ['the moment they go forward', '2026-03-29T01:00:00Z', '2026-03-29T03:00:00Z'],
  ])('%s', (_, instant, wall) => {
    expect(wallClock(Date.parse(instant), 'Europe/Oslo')).toBe(Date.parse(wall))
    expect(instantOf(Date.parse(wall), 'Europe/Oslo')).toBe(Date.parse(instant))
  })
  test('a time that comes twice is the first, one that is left out is an hour later', () => {
    expect(instantOf(Date.parse('2026-10-25T02:30:00Z'), 'Europe/Oslo')).toBe(
      Date.parse('2026-10-25T00:30:00Z'),
    )
    expect(instantOf(Date.parse('2026-03-29T02:30:00Z'), 'Europe/Oslo')).toBe(
      Date.parse('2026-03-29T01:30:00Z'),
    )
  })
  test('there and back is the same instant, but for the hour that comes twice', () => {
    const zones = fc.constantFrom(
      'Europe/Oslo',
      'America/New_York',
      'Asia/Kathmandu',
      'Pacific/Auckland',
      'UTC',
    )
    fc.assert(
      fc.property(fc.integer({ min: 1.6e12, max: 2e12 }), zones, (atMs, zone) => {
        expect([0, 3_600_000]).toContain(atMs - instantOf(wallClock(atMs, zone), zone))
      }),
    )
  })
})
