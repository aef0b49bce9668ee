import fc from 'fast-check'
import ICAL from 'ical.js'
import { expect, test } from 'vitest'
import { writeCalendar } from './calendar.ts'

const NOW = Date.UTC(2026, 10, 27, 10)
const day = {
  uid: 'order-7@rack',
  dayMs: Date.UTC(2026, 11, 2),
  summary: 'Order: gannet-02 (critical 82 %)',
  description:
    'Grows 38 GiB a day since 3 Oct; a rise of 4.1 TiB on 12 Sep counts as a step.\nOrder, then; wait, 14 days.',
  url: 'http://rack.example/ahead/7',
}
const eventsOf = (written: string) =>
  new ICAL.Component(ICAL.parse(written) as unknown[])
    .getAllSubcomponents('vevent')
    .map((each) => new ICAL.Event(each))

test('an independent reader finds the days, the words and the addresses', () => {
  const written = writeCalendar('Ahead', [day], NOW)
  const [event] = eventsOf(written)
  expect(event!.uid).toBe(day.uid)
  expect(event!.startDate.isDate).toBe(true)
  expect(event!.startDate.toString()).toBe('2026-12-02')
  expect(event!.summary).toBe(day.summary)
  expect(event!.description).toBe(day.description)
  expect(event!.component.getFirstPropertyValue('url')).toBe(day.url)
})

test('whatever the words, they come back, and no line is longer than 75 octets', () => {
  const words = fc
    .string({ unit: 'binary', maxLength: 200 })
    .map((each) => each.replaceAll(/[\p{Cc}\u2028\u2029]/gu, ' ').trim())
  fc.assert(
    fc.property(words, words, (summary, description) => {
      const written = writeCalendar('Ahead', [{ ...day, summary, description }], NOW)
      for (const line of written.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75)
      const [event] = eventsOf(written)
      expect(event!.summary ?? '').toBe(summary)
      expect(event!.description ?? '').toBe(description)
    }),
    { numRuns: 100 },
  )
})
