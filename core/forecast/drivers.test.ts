import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import {
  type DailyMeans,
  drivenBy,
  driversOf,
  driversSentence,
  driversSince,
  rateWords,
  slopeOfDays,
} from './drivers.ts'
import { DAY_MS } from './face.ts'

const NOW = Date.UTC(2026, 10, 20, 12)
const TODAY = Math.floor(NOW / DAY_MS)
const span = { fromMs: (TODAY - 10) * DAY_MS, toMs: TODAY * DAY_MS, as: 'growth' } as const
const grown = (name: string, from: number, perDay: number, days = 10) => ({
  id: name.length,
  name,
  days: Array.from({ length: days }, (_, at) => TODAY - days + at),
  means: Array.from({ length: days }, (_, at) => from + at * perDay),
})

// The answers are those of `statistics.linear_regression` of Python 3.11.
test.each([
  { means: [5, 7, 8, 13, 18, 26], slope: 2.0675675675675675 },
  { means: [100, 99.5, 99, 97.8, 96, 95], slope: -0.5202702702702703 },
])('the change in a day is the slope of least squares: $slope', ({ means, slope }) => {
  expect(slopeOfDays({ days: [100, 101, 102, 104, 107, 110], means })).toBeCloseTo(slope, 12)
})

test('fewer than three days have no slope', () => {
  expect(slopeOfDays({ days: [1, 2], means: [1, 5] })).toBeNaN()
})

const history = (days: readonly number[]): fc.Arbitrary<DailyMeans> =>
  fc
    .array(fc.double({ min: -1e12, max: 1e12, noNaN: true }), {
      minLength: days.length,
      maxLength: days.length,
    })
    .map((means) => ({ days, means }))

test('the users of a thing add up to it, whatever they do', () => {
  const some = fc
    .uniqueArray(fc.integer({ min: 0, max: 60 }), { minLength: 3, maxLength: 30 })
    .chain((days) => {
      const sorted = days.sort((a, b) => a - b)
      return fc.array(history(sorted), { minLength: 1, maxLength: 12 })
    })
  fc.assert(
    fc.property(some, (users) => {
      const whole = {
        days: users[0]!.days,
        means: users[0]!.means.map((_, at) => users.reduce((sum, { means }) => sum + means[at]!, 0)),
      }
      const drivers = driversOf(
        users.map((each, id) => ({ ...each, id, name: `m${id}` })),
        whole,
        { fromMs: 0, toMs: 61 * DAY_MS, as: 'growth' },
      )
      expect(Math.abs(drivers.whole! - drivers.perDay)).toBeLessThan(1e-2)
      const shown = drivers.first.reduce((sum, { perDay }) => sum + perDay, 0) + drivers.others.perDay
      expect(shown).toBeCloseTo(drivers.perDay, 1)
      expect(drivers.first.length + drivers.others.count).toBe(users.length)
    }),
  )
})

// A copy of 500 on day 105, a third of it counted on that day; Python: numpy.linalg.lstsq of ones, days and a step from 106 on,
// without day 105, gives 2.
test('a jump is no growth: each stretch has a height of its own, and one slope', () => {
  const days = [100, 101, 102, 103, 104, 105, 106, 107, 108, 109]
  const means = days.map((day) => 2 * day + (day > 105 ? 500 : day === 105 ? 170 : 0))
  expect(slopeOfDays({ days, means }, [105])).toBeCloseTo(2, 9)
  expect(slopeOfDays({ days, means })).toBeGreaterThan(60)
  expect(slopeOfDays({ days: [104, 105, 106], means: [1, 2, 3] }, [105])).toBeNaN()
})

test('who made a jump is named, where one made at least half of it', () => {
  const jumped = (name: string, size: number) => {
    const user = grown(name, 500, 1)
    return { ...user, means: user.means.map((mean, at) => mean + (at > 4 ? size : 0)) }
  }
  const atMs = (TODAY - 6) * DAY_MS + 1000
  const whole = {
    ...grown('', 0, 0),
    means: grown('', 1500, 3).means.map((mean, at) => mean + (at > 4 ? 300 : 0)),
  }
  const of = (...users: ReturnType<typeof jumped>[]) => driversOf(users, whole, { ...span, jumpsMs: [atMs] })
  expect(of(jumped('a', 290), jumped('bb', 10)).jumps).toEqual([{ atMs, id: 1, name: 'a', size: 292 }])
  expect(of(jumped('a', 290), jumped('bb', 10)).first.map(({ perDay }) => Math.round(perDay))).toEqual([1, 1])
  expect(of(jumped('a', 100), jumped('bb', 100), jumped('ccc', 100)).jumps).toEqual([])
  const long = driversOf([jumped('a', 290)], whole, { ...span, jumpsMs: [atMs, atMs - DAY_MS] })
  expect(long.jumps, 'two days in a row are one').toEqual([{ atMs, id: 1, name: 'a', size: 293 }])
})

test('the strongest come first, the rest together; one that is new says since when', () => {
  const drivers = driversOf(
    [
      grown('a', 100, 1),
      grown('bb', 500, 9),
      grown('ccc', 50, -2),
      grown('dddd', 0, 4, 4),
      grown('eeeee', 0, 1, 2),
    ],
    null,
    { ...span, most: 2 },
  )
  expect(drivers.first.map(({ name, perDay, sinceMs }) => [name, Math.round(perDay), sinceMs])).toEqual([
    ['bb', 9, null],
    ['dddd', 4, (TODAY - 4) * DAY_MS],
  ])
  expect(drivers.others.count).toBe(2)
  expect(drivers.others.perDay).toBeCloseTo(-1, 9)
  expect(drivers.tooShort).toBe(1)
  expect(drivers.whole, 'nobody knows of it').toBeNull()
})

test('of a flow the amount counts, not its change', () => {
  const drivers = driversOf([grown('idle', 900, 0), grown('rising', 10, 5)], null, { ...span, as: 'flow' })
  expect(drivers.first.map(({ name, perDay }) => [name, perDay])).toEqual([
    ['idle', 900],
    ['rising', 32.5],
  ])
})

describe('the sentence', () => {
  const say = (...users: ReturnType<typeof grown>[]) =>
    driversSentence(driversOf(users, null, span), 'growth')
  test('names one that makes up half', () => {
    expect(say(grown('radar-02', 500, 6), grown('radar-1', 500, 2), grown('rest', 500, 2))).toBe(
      'radar-02 makes up 60 % of what is added.',
    )
  })
  test('or two that do', () => {
    expect(
      say(grown('one', 500, 4), grown('two', 500, 3), grown('three', 500, 2), grown('four', 500, 2)),
    ).toBe('one and two make up 64 % of what is added.')
  })
  test('a machine that shrinks takes nothing from the share of those that grow', () => {
    expect(say(grown('one', 500, 4), grown('two', 500, -3.9))).toBe('one makes up 100 % of what is added.')
  })
  test('says when nobody does, and when nothing grows', () => {
    expect(say(...['a', 'bb', 'ccc', 'dddd', 'eeeee'].map((name) => grown(name, 500, 2)))).toBe(
      'No one or two of 5 make up half of what is added.',
    )
    expect(say(grown('a', 500, 0.01), grown('bb', 500, -3))).toBe('None of these 2 grows to speak of.')
    expect(say(grown('a', 500, -3))).toBe('a does not grow to speak of.')
    expect(say(grown('a', 500, 3, 2))).toBe('Too little is known of what uses it.')
  })
})

test('growth is looked for as long as it has gone on, from four to thirty days', () => {
  expect(driversSince(null, NOW)).toBe((TODAY - 30) * DAY_MS)
  expect(driversSince(NOW - 300 * DAY_MS, NOW)).toBe((TODAY - 30) * DAY_MS)
  expect(driversSince(NOW - 12 * DAY_MS, NOW)).toBe((TODAY - 12) * DAY_MS)
  expect(driversSince(NOW - DAY_MS, NOW)).toBe((TODAY - 4) * DAY_MS)
})

test('a rate is said by the day where much comes in one, else over the whole time', () => {
  const words = (value: number) => `${value} W`
  expect(rateWords(3, span, true, words)).toBe('+3 W a day')
  expect(rateWords(-3, span, false, words)).toBe('−30 W in 10 days')
})

test('who uses a thing up depends on what it is', () => {
  const by = (
    measure: Parameters<typeof drivenBy>[0]['measure'],
    gearKind: 'store' | 'array' | 'server' | 'ups' | 'cluster' | 'machine',
  ) => drivenBy({ measure, gearKind, partKind: null })
  expect(by('system.filesystem.utilization', 'store')?.kinds).toEqual(['machine', 'volume'])
  expect(
    by('system.filesystem.utilization', 'server'),
    'a file system of a host is used by it alone',
  ).toBeNull()
  expect(by('system.cpu.utilization', 'server')?.links).toEqual(['hosts'])
  expect(by('system.memory.less_largest', 'cluster')?.measure).toBe('system.memory.usage')
  expect(by('system.cpu.utilization', 'machine')).toBeNull()
  expect(by('hw.drive.life_left', 'array')?.as).toBe('flow')
  expect(by('hw.drive.life_left', 'server')).toBeNull()
  expect(by('ups.battery.minutes_left', 'ups')?.measure).toBe('hw.power')
  expect(by('hw.fuel', 'store')).toBeNull()
})
