import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { lengthOf, serviceSpans } from './availability.ts'
import { HoursError, parseServiceHours, serviceHoursText } from './hoursText.ts'

describe('service hours as people write them', () => {
  test.each([
    ['', null],
    ['Around the clock', null],
    ['Mon–Fri 08:00–17:00', 'Mon–Fri 08:00–17:00'],
    [
      'mo-fr 8:00-17:00; saturday 9:00-12:00, 13:00-16:00',
      'Mon–Fri 08:00–17:00; Sat 09:00–12:00, 13:00–16:00',
    ],
    ['Sat–Mon 00:00–24:00', 'Mon 00:00–24:00; Sat–Sun 00:00–24:00'],
    ['Mon, Wed, Fri 10:00–12:00', 'Mon 10:00–12:00; Wed 10:00–12:00; Fri 10:00–12:00'],
    ['Fri 22:00–06:00', 'Fri 22:00–24:00; Sat 00:00–06:00'],
    ['Mon 08:00–12:00, 11:00–13:00', 'Mon 08:00–13:00'],
    ['Mon–Sun 06:00–22:00; not 2026-12-25, 2027-01-01', 'Mon–Sun 06:00–22:00; not 2026-12-25, 2027-01-01'],
  ])('“%s”', (text, written) => {
    const hours = parseServiceHours(text)
    expect(hours === null ? null : serviceHoursText(hours)).toBe(written)
  })

  test.each([
    ['whenever', '“whenever” is not days with times. Write “Mon–Fri 08:00–17:00”.'],
    ['Foo 08:00–17:00', '“foo” is no day. Days are Mon, Tue, Wed, Thu, Fri, Sat, Sun.'],
    ['Mon 8–17', '“8–17” is not a span of time. Write “08:00–17:00”.'],
    ['Mon 08:00–25:00', '“25:00” is no time of day: they go from 00:00 to 24:00.'],
    ['Mon 08:60–09:00', '“08:60” is no time of day: they go from 00:00 to 24:00.'],
    ['Mon 08:00–08:00', '“08:00–08:00” has no length. For a whole day write “00:00–24:00”.'],
    ['Mon 08:00–09:00; not 2026-02-30', '“2026-02-30” is no date. Write days left out as 2026-12-25.'],
    ['not 2026-12-25', 'No hours are left: name days and times, as in “Mon–Fri 08:00–17:00”.'],
  ])('“%s” is refused with why', (text, sentence) => {
    expect(() => parseServiceHours(text)).toThrow(new HoursError(sentence))
  })

  test('whatever is written is read back as it was, and promises as many hours', () => {
    const times = fc
      .uniqueArray(fc.integer({ min: 0, max: 1440 }), { minLength: 0, maxLength: 6 })
      .map((edges) => {
        const sorted = [...edges].sort((a, b) => a - b)
        return sorted.flatMap((from, index): [number, number][] =>
          index % 2 === 0 && index + 1 < sorted.length ? [[from, sorted[index + 1]!]] : [],
        )
      })
    const week = fc
      .array(times, { minLength: 7, maxLength: 7 })
      .filter((days) => days.some((day) => day.length > 0))
    fc.assert(
      fc.property(week, (days) => {
        const hours = { days, except: [] }
        const read = parseServiceHours(serviceHoursText(hours))
        expect(read).toEqual(hours)
        // A week of UTC, Monday 23 November 2026.
        const fromMs = Date.UTC(2026, 10, 23)
        const minutes = days.flat().reduce((sum, [from, to]) => sum + to - from, 0)
        expect(lengthOf(serviceSpans(read, { fromMs, toMs: fromMs + 7 * 86_400_000 }, 'UTC'))).toBe(
          minutes * 60_000,
        )
      }),
    )
  })

  test('a Sunday that loses an hour to summer time has 23, a Saturday that is left out has none', () => {
    const hours = parseServiceHours('Sat–Sun 00:00–24:00; not 2026-03-28')
    // In Oslo 29 March 2026 has 23 hours.
    const spans = serviceSpans(
      hours,
      { fromMs: Date.UTC(2026, 2, 23), toMs: Date.UTC(2026, 2, 30, 12) },
      'Europe/Oslo',
    )
    expect(lengthOf(spans)).toBe(23 * 3_600_000)
  })
})
