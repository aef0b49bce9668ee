import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import {
  availabilityOf,
  budgetOf,
  courseOfMany,
  lengthOf,
  meeting,
  serviceSpans,
  shareWords,
  type Span,
  union,
  without,
} from './index.ts'

const HOUR = 3_600_000
const hours = (from: number, to: number): Span => ({ fromMs: from * HOUR, toMs: to * HOUR })
const ALWAYS = { service: [hours(0, 100)], maintenance: [] }
const office = {
  days: [0, 1, 2, 3, 4].map(() => [[8 * 60, 17 * 60] as const]).concat([[], []] as never),
  except: ['2026-12-25'],
}

describe('service hours', () => {
  test('of a week are forty-five, and none on Christmas Day', () => {
    const week = (day: string) => ({ fromMs: Date.parse(day), toMs: Date.parse(day) + 7 * 24 * HOUR })
    expect(lengthOf(serviceSpans(office, week('2026-11-30T00:00Z'), 'UTC'))).toBe(45 * HOUR)
    expect(lengthOf(serviceSpans(office, week('2026-12-21T00:00Z'), 'UTC'))).toBe(36 * HOUR)
  })
  test('go by the clocks of the site over a change of summer time: 25 October 2026 has 25 hours in Oslo', () => {
    const whole = { days: Array.from({ length: 7 }, () => [[0, 1440] as const]), except: [] }
    const sunday = { fromMs: Date.parse('2026-10-24T22:00Z'), toMs: Date.parse('2026-10-25T23:00Z') }
    expect(lengthOf(serviceSpans(whole, sunday, 'Europe/Oslo'))).toBe(25 * HOUR)
    const monday = { fromMs: Date.parse('2026-10-25T23:00Z'), toMs: Date.parse('2026-10-26T23:00Z') }
    expect(serviceSpans(office, monday, 'Europe/Oslo')).toEqual([
      { fromMs: Date.parse('2026-10-26T07:00Z'), toMs: Date.parse('2026-10-26T16:00Z') },
    ])
  })
  test('of a window that ends before it begins are none', () => {
    expect(serviceSpans(null, hours(5, 4), 'UTC')).toEqual([])
  })
})

describe('availability', () => {
  test('of one hour down in a hundred is 99 %', () => {
    const told = availabilityOf({ down: [hours(10, 11)], blind: [] }, ALWAYS)
    expect(told).toMatchObject({
      promisedMs: 100 * HOUR,
      downMs: HOUR,
      upMs: 99 * HOUR,
      share: 0.99,
      mendMs: HOUR,
    })
    expect(told.betweenMs).toBeNull()
  })
  test('takes overlapping maintenance out once, and what is down within it is no outage', () => {
    const told = availabilityOf(
      { down: [hours(10, 14), hours(50, 51)], blind: [] },
      { service: [hours(0, 100)], maintenance: [hours(8, 12), hours(11, 15)] },
    )
    // Seven hours of work; 93 are promised, of which one is down.
    expect(told).toMatchObject({ maintenanceMs: 7 * HOUR, promisedMs: 93 * HOUR, downMs: HOUR })
    expect(told.outages).toEqual([hours(50, 51)])
  })
  test('never counts as up what was not heard; what is known to be down is down all the same', () => {
    const told = availabilityOf({ down: [hours(20, 22)], blind: [hours(21, 31)] }, ALWAYS)
    expect(told).toMatchObject({ downMs: 2 * HOUR, blindMs: 9 * HOUR, upMs: 89 * HOUR })
    expect(told.share).toBeCloseTo(89 / 91, 12)
    expect(told.leastShare).toBeCloseTo(0.89, 12)
    expect(availabilityOf({ down: [], blind: [hours(0, 100)] }, ALWAYS).share).toBeNull()
  })
  test('mean times count what was promised only: nights between two outages do not', () => {
    // Ten hours of service a day, from 8 to 18; outages at the end of the first day and in the middle of the second.
    const service = [hours(8, 18), hours(32, 42)]
    const told = availabilityOf(
      { down: [hours(17, 18), hours(37, 38)], blind: [] },
      { service, maintenance: [] },
    )
    expect(told.betweenMs).toBe(5 * HOUR)
    expect(told.mendMs).toBe(HOUR)
    const overNight = availabilityOf({ down: [hours(17, 33)], blind: [] }, { service, maintenance: [] })
    expect(overNight).toMatchObject({ downMs: 2 * HOUR, mendMs: 2 * HOUR })
    expect(overNight.outages).toHaveLength(1)
  })
  test('adds up, whatever is down, blind or under work', () => {
    const spans = fc.array(
      fc
        .tuple(fc.integer({ min: -10, max: 110 }), fc.integer({ min: 0, max: 20 }))
        .map(([from, length]) => hours(from, from + length)),
      { maxLength: 8 },
    )
    fc.assert(
      fc.property(spans, spans, spans, (down, blind, maintenance) => {
        const told = availabilityOf({ down, blind }, { service: [hours(0, 100)], maintenance })
        expect(told.upMs + told.downMs + told.blindMs).toBe(told.promisedMs)
        expect(told.promisedMs + told.maintenanceMs).toBe(100 * HOUR)
        expect(told.upMs).toBeGreaterThanOrEqual(0)
      }),
    )
  })
})

test('the error budget of 99.9 % of 30 days is 43 min 12 s; half of it used after a tenth of the period goes five times too fast', () => {
  const whole = 30 * 24 * HOUR
  const after = availabilityOf(
    { down: [{ fromMs: 0, toMs: 1_296_000 }], blind: [] },
    {
      service: [{ fromMs: 0, toMs: whole / 10 }],
      maintenance: [],
    },
  )
  const budget = budgetOf(0.999, after, whole)
  expect(budget.allowedMs).toBeCloseTo(2_592_000, 3)
  expect(budget.leftMs).toBeCloseTo(1_296_000, 3)
  expect(budget.pace).toBeCloseTo(5, 9)
})

test('a share is said as closely as it is, and nothing but all is 100 %', () => {
  const plain = (share: number): string => shareWords(share).replace(/\s/gu, ' ')
  expect([0.999, 0.98992, 0.9999999, 1, 0, 0.5].map(plain)).toEqual([
    '99.9 %',
    '98.992 %',
    '99.999 %',
    '100 %',
    '0 %',
    '50 %',
  ])
})

describe('several as one', () => {
  const window = hours(0, 10)
  const a = { down: [hours(1, 4)], blind: [] }
  const b = { down: [hours(3, 6)], blind: [hours(8, 9)] }
  test('any of two is down while both are; all of two while one is', () => {
    expect(courseOfMany([a, b], 1, window)).toEqual({ down: [hours(3, 4)], blind: [] })
    expect(courseOfMany([a, b], 2, window)).toEqual({ down: [hours(1, 6)], blind: [hours(8, 9)] })
  })
  test('of nobody nothing is known', () => {
    expect(courseOfMany([], 1, window)).toEqual({ down: [], blind: [window] })
  })
  test('is what counting hour by hour finds', () => {
    const course = fc.record({
      down: fc.array(fc.tuple(fc.integer({ min: 0, max: 9 }), fc.integer({ min: 1, max: 4 })), {
        maxLength: 4,
      }),
      blind: fc.array(fc.tuple(fc.integer({ min: 0, max: 9 }), fc.integer({ min: 1, max: 4 })), {
        maxLength: 4,
      }),
    })
    fc.assert(
      fc.property(
        fc.array(course, { minLength: 1, maxLength: 5 }),
        fc.integer({ min: 1, max: 5 }),
        (many, needed) => {
          const spans = (all: [number, number][]) => all.map(([from, length]) => hours(from, from + length))
          const members = many.map(({ down, blind }) => ({ down: spans(down), blind: spans(blind) }))
          const made = courseOfMany(members, needed, window)
          const holds = (list: readonly Span[], hour: number) =>
            list.some(({ fromMs, toMs }) => fromMs <= hour * HOUR && hour * HOUR < toMs)
          for (let hour = 0; hour < 10; hour += 1) {
            const down = members.filter((each) => holds(each.down, hour)).length
            const unknown = members.filter(
              (each) => !holds(each.down, hour) && holds(each.blind, hour),
            ).length
            const up = members.length - down - unknown
            const state = up >= needed ? 'up' : up + unknown >= needed ? 'blind' : 'down'
            expect(holds(made.down, hour)).toBe(state === 'down')
            expect(holds(made.blind, hour)).toBe(state === 'blind')
          }
        },
      ),
    )
  })
})

test('spans: what is taken out and what is left make the whole', () => {
  const spans = fc.array(
    fc
      .tuple(fc.integer({ min: 0, max: 50 }), fc.integer({ min: 0, max: 9 }))
      .map(([from, length]) => hours(from, from + length)),
  )
  fc.assert(
    fc.property(spans, spans, (some, others) => {
      const [a, b] = [union(some), union(others)]
      expect(union([...meeting(a, b), ...without(a, b)])).toEqual(a)
      expect(meeting(without(a, b), b)).toEqual([])
    }),
  )
})
