import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { HOUR_MS, type Hours, hoursOf } from '../readings/index.ts'
import { hourOfWeek, quietHours, sureWords, windowWords } from './index.ts'

/** Monday, 5 January 2026, 00:00 UTC. */
const MONDAY = Date.UTC(2026, 0, 5)

/** A course by the hour, from a Monday on. */
const course = (hours: number, valueAt: (hour: number) => number): Hours =>
  hoursOf({
    times: Float64Array.from({ length: hours }, (_, hour) => MONDAY + hour * HOUR_MS),
    values: Float64Array.from({ length: hours }, (_, hour) => valueAt(hour)),
  })

test('hours of the week are those that the clocks of the site show', () => {
  expect(hourOfWeek(MONDAY, 'UTC').hour).toBe(0)
  expect(hourOfWeek(MONDAY - 1, 'UTC').hour).toBe(167)
  expect(hourOfWeek(MONDAY, 'Europe/Oslo').hour).toBe(1)
  // Clocks go forward on 29 March 2026: 06:00 on Monday is an hour earlier in UTC than a week before.
  expect(hourOfWeek(Date.UTC(2026, 2, 23, 5), 'Europe/Oslo').hour).toBe(6)
  expect(hourOfWeek(Date.UTC(2026, 2, 30, 4), 'Europe/Oslo').hour).toBe(6)
})

describe('quiet hours', () => {
  const busyUntil5 = course(4 * 168, (hour) => (hour % 24 < 5 ? 90 : 20))
  const busyFrom9 = course(4 * 168, (hour) => (hour % 24 >= 9 ? 500 : 10))
  const found = quietHours(
    [
      { name: 'processor', sort: 'processor', hours: busyUntil5 },
      { name: 'network', sort: 'network', hours: busyFrom9 },
    ],
    { lengthHours: 4, timeZone: 'UTC', kept: [{ name: 'Model run', fromMinute: 8 * 60 + 30, minutes: 30 }] },
  )
  test('are those in which no member is busy, whatever its unit: 05:00 to 09:00', () => {
    expect(found.problem).toBeNull()
    expect(found.windows.map(({ hour }) => hour % 24)).toEqual([5, 5, 5])
    // 20 of 90 is more than 10 of 500.
    expect(found.windows[0]).toMatchObject({ times: 4, busiest: { name: 'processor' } })
    expect(found.windows[0]!.expected).toBeCloseTo(20 / 90)
    expect(found.windows[0]!.worst).toBeCloseTo(20 / 90)
  })
  test('of every day are one hour of the day, seen on every day', () => {
    const daily = quietHours(
      [
        { name: 'processor', sort: 'processor', hours: busyUntil5 },
        { name: 'network', sort: 'network', hours: busyFrom9 },
      ],
      {
        lengthHours: 4,
        timeZone: 'UTC',
        every: 'day',
        most: 1,
        kept: [{ name: 'Sunday run', fromMinute: 6 * 1440 + 300, minutes: 10 }],
      },
    )
    expect(daily.windows).toMatchObject([{ hour: 5, times: 28, clashes: ['Sunday run'] }])
    expect(windowWords(5, 4, 'day')).toBe('Every day 05:00–09:00')
  })
  test('clash with what is kept for something else', () => {
    expect(found.windows.find(({ hour }) => hour === 5)?.clashes).toEqual(['Model run'])
    expect(found.windows.find(({ hour }) => hour !== 5)?.clashes).toEqual([])
  })
  test('days of readings are not enough, and that is said', () => {
    const short = quietHours([{ name: 'a', sort: 'a', hours: course(100, () => 1) }], {
      lengthHours: 2,
      timeZone: 'UTC',
    })
    expect(short.windows).toEqual([])
    expect(short.problem).toBe(
      'Together they were heard for 100 hours only; a week of 168 hours is needed to tell the hours of a week apart.',
    )
    const none = quietHours([{ name: 'a', sort: 'a', hours: course(0, () => 1) }], {
      lengthHours: 2,
      timeZone: 'UTC',
    })
    expect(none.problem).toBe('Nothing was heard of any of them in this span.')
  })
  test('of one that was not heard nobody says that it was quiet', () => {
    const holes = hoursOf({
      times: Float64Array.from({ length: 4 * 168 }, (_, hour) => MONDAY + hour * HOUR_MS).filter(
        (at) => ((at - MONDAY) / HOUR_MS) % 24 !== 6,
      ),
      values: new Float64Array(4 * 168 - 28).fill(1),
    })
    const told = quietHours(
      [
        { name: 'a', sort: 'a', hours: busyFrom9 },
        { name: 'b', sort: 'b', hours: holes },
      ],
      { lengthHours: 4, timeZone: 'UTC' },
    )
    expect(told.hours[6]).toBeNull()
    for (const { hour } of told.windows) expect(hour % 24 > 6 || hour % 24 <= 2).toBe(true)
  })
  test('are what trying every window finds', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 100 }), { minLength: 2 * 168, maxLength: 2 * 168 }),
        fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 2 * 168, maxLength: 2 * 168 }),
        fc.integer({ min: 1, max: 24 }),
        (first, second, length) => {
          const best = quietHours(
            [
              { name: 'a', sort: 'a', hours: course(336, (hour) => first[hour]!) },
              { name: 'b', sort: 'b', hours: course(336, (hour) => second[hour]!) },
            ],
            { lengthHours: length, timeZone: 'UTC', most: 1 },
          ).windows[0]!
          const ninetyNine = (values: number[]): number => {
            const sorted = [...values].sort((a, b) => a - b)
            const at = 0.99 * (sorted.length - 1)
            const low = Math.floor(at)
            return sorted[low]! + (sorted[Math.min(sorted.length - 1, low + 1)]! - sorted[low]!) * (at - low)
          }
          const peaks = [ninetyNine(first) || 1, ninetyNine(second) || 1]
          const levels = first.map((value, hour) => Math.max(value / peaks[0]!, second[hour]! / peaks[1]!))
          const rankOf = (hour: number): number => {
            const means = [0, 1].flatMap((week) => {
              const own = levels.slice(week * 168 + hour, week * 168 + hour + length)
              return own.length < length ? [] : [own.reduce((sum, value) => sum + value, 0) / length]
            })
            const [low, high] = [Math.min(...means), Math.max(...means)]
            return means.length === 1 ? low : low + 0.9 * (high - low)
          }
          const ranks = Array.from({ length: 168 }, (_, hour) => rankOf(hour))
          expect(rankOf(best.hour)).toBeCloseTo(Math.min(...ranks), 9)
        },
      ),
      { numRuns: 60 },
    )
  })
})

test('windows and how sure they are in words', () => {
  expect(windowWords(29, 3)).toBe('Tuesday 05:00–08:00')
  expect(windowWords(166, 4)).toBe('Sunday 22:00–Monday 02:00')
  expect(windowWords(21, 3)).toBe('Monday 21:00–00:00')
  expect(sureWords(1)).toContain('once only')
  expect(sureWords(8)).toBe('seen in 8 weeks')
})
