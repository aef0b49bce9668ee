import fc from 'fast-check'
import rrule from 'rrule'
import { describe, expect, test } from 'vitest'
import { isRepeats, REPEATS, type Repeats, timeOfRepeating } from './repeats.ts'

const { RRule } = rrule
const at = (text: string): number => Date.parse(text)
const startOf = (first: string, rule: Repeats, now: string, timeZone = 'Europe/Oslo'): string => {
  const fromMs = at(first)
  const time = timeOfRepeating({ fromMs, toMs: fromMs + 2 * 3_600_000 }, rule, at(now), timeZone)
  return new Date(time.fromMs).toISOString()
}

describe('a quiet that comes again', () => {
  // Sundays from two to four in Oslo, begun on 4 October 2026, when clocks there are two hours ahead of UTC.
  test.each([
    ['before the first', '2026-10-01T00:00:00Z', '2026-10-04T00:00:00.000Z'],
    ['in the first', '2026-10-04T01:59:00Z', '2026-10-04T00:00:00.000Z'],
    ['after it', '2026-10-04T02:00:00Z', '2026-10-11T00:00:00.000Z'],
    ['in winter by the same clock', '2026-11-10T00:00:00Z', '2026-11-15T01:00:00.000Z'],
  ])('%s', (_, now, from) => {
    expect(startOf('2026-10-04T00:00:00Z', 'FREQ=WEEKLY', now)).toBe(from)
  })
  test('on the 31st passes over months that have none', () => {
    expect(startOf('2026-01-31T09:00:00Z', 'FREQ=MONTHLY', '2026-02-10T00:00:00Z', 'UTC')).toBe(
      '2026-03-31T09:00:00.000Z',
    )
  })
  test('is only what the form offers: no rule that never comes, and none that takes for ever', () => {
    expect(Object.keys(REPEATS).every(isRepeats)).toBe(true)
    for (const rule of [
      'FREQ=WEEKLY;BYDAY=XX',
      'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30',
      'FREQ=SECONDLY',
      'toString',
      '',
    ])
      expect(isRepeats(rule), rule).toBe(false)
  })
  test('comes when a library for RFC 5545 says that it does', () => {
    const minute = 60_000
    const instant = fc
      .integer({ min: at('2024-01-01T00:00:00Z') / minute, max: at('2029-01-01T00:00:00Z') / minute })
      .map((minutes) => minutes * minute)
    fc.assert(
      fc.property(
        fc.constantFrom(...(Object.keys(REPEATS) as Repeats[])),
        instant,
        instant,
        (rule, first, now) => {
          const lengthMs = 90 * minute
          const reference = new RRule({ ...RRule.parseString(rule), dtstart: new Date(first) })
          const wanted = reference.after(new Date(now - lengthMs), false)!
          const { fromMs, toMs } = timeOfRepeating(
            { fromMs: first, toMs: first + lengthMs },
            rule,
            now,
            'UTC',
          )
          expect(new Date(fromMs)).toEqual(wanted)
          expect(toMs).toBe(fromMs + lengthMs)
        },
      ),
      { numRuns: 300 },
    )
  })
})
