import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { formatDay, formatTick, timeTicks, wallClock } from './index.ts'

const DAY = 86_400_000
const ticks = (from: string, to: string, zone = 'UTC', most = 8): string[] =>
  timeTicks(Date.parse(from), Date.parse(to), zone, most).map((atMs) =>
    new Date(atMs).toISOString().slice(0, 16),
  )

describe('ticks of a time axis', () => {
  test('an hour by ten minutes, six hours by the hour', () => {
    expect(ticks('2026-11-30T10:03:00Z', '2026-11-30T11:03:00Z')).toEqual(
      ['10:10', '10:20', '10:30', '10:40', '10:50', '11:00'].map((clock) => `2026-11-30T${clock}`),
    )
    expect(ticks('2026-11-30T05:00:00Z', '2026-11-30T11:00:00Z')).toHaveLength(7)
  })
  test('by midnights of the zone, and not of who reads it', () => {
    expect(ticks('2026-11-25T12:00:00Z', '2026-11-30T12:00:00Z', 'Europe/Oslo')).toEqual(
      ['25', '26', '27', '28', '29'].map((day) => `2026-11-${day}T23:00`),
    )
  })
  test('a month by Mondays, a year by the first of every second month', () => {
    expect(ticks('2026-10-31T06:00:00Z', '2026-11-30T06:00:00Z')).toEqual(
      ['02', '09', '16', '23', '30'].map((day) => `2026-11-${day}T00:00`),
    )
    expect(ticks('2025-11-30T00:00:00Z', '2026-11-30T00:00:00Z')).toEqual(
      ['01', '03', '05', '07', '09', '11'].map((month) => `2026-${month}-01T00:00`),
    )
  })
  test('across both changes of the clocks each hour stands once, in order', () => {
    // Oslo: 29 March 2026 has no 02:00–03:00, 25 October has it twice (IANA time zone database).
    expect(ticks('2026-03-29T00:00:00Z', '2026-03-29T04:00:00Z', 'Europe/Oslo', 4)).toEqual(
      ['00', '01', '02', '03', '04'].map((hour) => `2026-03-29T${hour}:00`),
    )
    expect(ticks('2026-10-24T23:30:00Z', '2026-10-25T03:30:00Z', 'Europe/Oslo', 4)).toEqual(
      ['00', '02', '03'].map((hour) => `2026-10-25T${hour}:00`),
    )
  })
  test('within the span, ascending, never many more than asked for, and on round times of the clocks', () => {
    const zones = fc.constantFrom('Europe/Oslo', 'America/New_York', 'Asia/Kathmandu', 'UTC')
    fc.assert(
      fc.property(
        fc.integer({ min: 1.5e12, max: 2e12 }),
        fc.integer({ min: 60_000, max: 400 * DAY }),
        zones,
        fc.integer({ min: 3, max: 12 }),
        (from, span, zone, most) => {
          const found = timeTicks(from, from + span, zone, most)
          expect(found.length).toBeLessThanOrEqual(most + 2)
          expect(found.every((atMs) => atMs >= from && atMs <= from + span)).toBe(true)
          expect(found).toEqual([...new Set(found)].sort((a, b) => a - b))
          expect(found.every((atMs) => wallClock(atMs, zone) % 60_000 === 0)).toBe(true)
          if (span > most * DAY)
            expect(found.map((atMs) => wallClock(atMs, zone) % DAY)).toEqual(found.map(() => 0))
        },
      ),
    )
  })
})

test('a day is named in its zone', () => {
  expect(formatDay(Date.parse('2026-11-29T23:30:00Z'), 'Europe/Oslo')).toBe('30 Nov')
})

test('a label is the clock, at midnight the day, and in a span of many days always the day', () => {
  const label = (at: string, days: number): string => {
    const toMs = Date.parse('2026-11-30T12:00:00Z')
    return formatTick(Date.parse(at), { fromMs: toMs - days * DAY, toMs }, 'Europe/Oslo')
  }
  expect(label('2026-11-30T05:00:00Z', 1)).toBe('06:00')
  expect(label('2026-11-29T23:00:00Z', 1)).toBe('30 Nov')
  expect(label('2026-11-29T05:00:00Z', 30)).toBe('29 Nov')
})
