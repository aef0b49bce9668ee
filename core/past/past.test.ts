import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { heldRow, HOUR_MS, hoursOf, rasterOf, type Row, rowOfCurve, rowOfHours } from '../readings/index.ts'
import {
  againstRow,
  bandOf,
  combineRows,
  comparedOf,
  findPicks,
  isPicked,
  longestBeyond,
  namesApart,
  type Pick,
  pickOf,
  pickWords,
  rateRow,
  readPick,
  sayShown,
  showsOf,
  statisticsOfRow,
  togetherByGear,
  TOGETHERS,
  writePick,
} from './index.ts'

const row = (...values: number[]): Row => {
  const all = Float64Array.from(values)
  return { min: all, max: all, mean: all, last: all }
}
const HOURLY = { fromMs: 0, stepMs: HOUR_MS, columns: 4 }
const meansOf = ({ mean }: Row): number[] => [...mean]

describe('picks', () => {
  const pick: Pick = {
    ...pickOf('system.cpu.utilization', 'cluster', 'north~1 50%'),
    together: 'sum',
    per: 'rack',
    busiest: 10,
    against: { how: 'by', measure: 'system.memory.utilization', from: null },
    isRate: true,
    role: 'intake',
  }
  test('come back from an address as they went in, whatever a place is called', () => {
    expect(readPick(writePick(pick))).toEqual(pick)
    fc.assert(
      fc.property(
        fc.string({ minLength: 1, maxLength: 40 }),
        fc.constantFrom(...TOGETHERS),
        (value, together) => {
          const made: Pick = {
            ...pickOf('hw.temperature', 'tag', value),
            together,
            against: {
              how: 'less',
              measure: 'hw.temperature',
              from: { scope: 'cluster', value, role: 'intake' },
            },
          }
          expect(readPick(writePick(made))).toEqual(made)
        },
      ),
    )
  })
  test('what it is compared with elsewhere is said, and a difference of temperatures is in K', () => {
    const from = { scope: 'rack', value: '7', role: 'intake' } as const
    const warmer: Pick = {
      ...pickOf('hw.temperature', 'rack', '3'),
      role: 'intake',
      against: { how: 'less', measure: 'hw.temperature', from },
    }
    expect(pickWords(warmer, 'rack B07', 'rack B01')).toBe(
      'Intake temperature less mean intake temperature of rack B01 · rack B07',
    )
    expect(comparedOf(warmer)).toEqual({ ...pickOf('hw.temperature', 'rack', '7'), role: 'intake' })
    expect(sayShown(showsOf('hw.temperature', warmer), 3.5)).toBe('3.5\u00a0K')
    expect(readPick('hw.temperature~rack~3~~~~less.hw.temperature;planet;;mars')).toContain('no measure')
  })
  test('what is usual is not written', () => {
    expect(writePick(pickOf('hw.temperature'))).toBe('hw.temperature')
    expect(writePick(pickOf('hw.temperature', 'room', '3'))).toBe('hw.temperature~room~3')
  })
  test.each([
    ['nothing.such', 'no measure'],
    ['hw.temperature~planet~mars', 'no place'],
    ['hw.temperature~room', 'does not say which room'],
    ['hw.temperature~room~3~~~0', 'it may be 1 to 100'],
    ['hw.temperature~room~3~~~ten', 'it may be 1 to 100'],
    ['hw.temperature~room~3~~~~less.nothing', 'no measure'],
    ['hw.temperature~room~3~~~~~~moon', 'nothing measures'],
  ])('%s is refused with a sentence', (text, says) => {
    expect(readPick(text)).toEqual(expect.stringContaining(says))
  })
  test('anything is a pick or a sentence', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const read = readPick(text)
        expect(typeof read === 'string' || read.measure.length > 0).toBe(true)
      }),
    )
  })
  test('say what they are', () => {
    expect(pickWords(pickOf('system.cpu.utilization', 'cluster', 'north'), 'north')).toBe(
      'Processor use · north',
    )
    expect(
      pickWords({ ...pickOf('hw.power', 'room', '1'), together: 'sum', per: 'rack' }, 'Breakwater Hall'),
    ).toBe('Power · sum of Breakwater Hall, of each rack')
    expect(pickWords({ ...pickOf('hw.temperature'), role: 'intake' }, '')).toMatch(
      /^(Inlet|Intake) temperature · everywhere$/,
    )
  })
  test('parts of a whole are picked by their gear only', () => {
    const core = {
      measure: 'system.cpu.utilization' as const,
      gearId: 7,
      gearKind: 'server',
      rackId: 1,
      roomId: 1,
      cluster: 'north',
      tags: [],
      groupIds: [],
      hasWhole: true,
    }
    expect(isPicked(pickOf('system.cpu.utilization', 'cluster', 'north'), core)).toBe(false)
    expect(isPicked(pickOf('system.cpu.utilization', 'gear', '7'), core)).toBe(true)
    expect(isPicked(pickOf('system.cpu.utilization', 'cluster', 'north'), { ...core, hasWhole: false })).toBe(
      true,
    )
  })
})

describe('a raster', () => {
  test('has at most so many columns, and covers the window', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 4e12 }),
        fc.integer({ min: 60_000, max: 366 * 24 * HOUR_MS }),
        fc.integer({ min: 20, max: 400 }),
        (fromMs, span, most) => {
          const raster = rasterOf({ fromMs, toMs: fromMs + span }, most)
          expect(raster.columns).toBeLessThanOrEqual(most)
          expect(raster.fromMs).toBeLessThanOrEqual(fromMs)
          expect(raster.fromMs + raster.columns * raster.stepMs).toBeGreaterThanOrEqual(fromMs + span)
        },
      ),
    )
  })
  test('is filled from hours as from the readings themselves', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: 47 * 60 }), fc.integer({ min: -50, max: 50 })), {
          maxLength: 300,
        }),
        (points) => {
          const sorted = [...new Map(points).entries()].sort(([a], [b]) => a - b)
          const curve = {
            times: Float64Array.from(sorted, ([minute]) => minute * 60_000),
            values: Float64Array.from(sorted, ([, value]) => value),
          }
          const raster = { fromMs: 0, stepMs: 6 * HOUR_MS, columns: 8 }
          const [fromHours, own] = [rowOfHours(hoursOf(curve), raster), rowOfCurve(curve, raster)]
          expect([...fromHours.min]).toEqual([...own.min])
          expect([...fromHours.max]).toEqual([...own.max])
          expect([...fromHours.last]).toEqual([...own.last])
          fromHours.mean.forEach((value, column) =>
            Number.isNaN(value)
              ? expect(own.mean[column]).toBeNaN()
              : expect(value).toBeCloseTo(own.mean[column]!, 9),
          )
        },
      ),
    )
  })
})

test('narrow columns hold what was read while nothing was missed: every five minutes, with an hour away', () => {
  const minutes = [0, 5, 10, 15, 20, 25, 85, 90, 95, 100, 105]
  const curve = { times: Float64Array.from(minutes, (at) => at * 60_000), values: Float64Array.from(minutes) }
  const raster = { fromMs: 0, stepMs: 120_000, columns: 56 }
  const held = heldRow(rowOfCurve(curve, raster), curve.times, raster, 180_000)
  expect([...held.mean.slice(0, 6)]).toEqual([0, 0, 5, 5, 5, 10])
  const empty = [...held.mean].flatMap((value, column) => (Number.isNaN(value) ? [column * 2] : []))
  // From 25 to 85 minutes nothing was heard, and after 105 nothing yet.
  expect(Math.min(...empty)).toBe(26)
  expect(empty.filter((minute) => minute > 84)).toEqual([106, 108, 110])
})

describe('several put together', () => {
  test('a sum has a gap where one of its members was not heard, and none before it was first heard', () => {
    expect(meansOf(combineRows('sum', [row(1, 2, NaN, 4), row(NaN, 10, 10, 10)], HOURLY))).toEqual([
      1,
      12,
      NaN,
      14,
    ])
  })
  test('what is not heard for more than a day is gone, and the others are summed without it', () => {
    const quiet = { fromMs: 0, stepMs: 12 * HOUR_MS, columns: 6 }
    const gone = row(5, NaN, NaN, NaN, NaN, NaN)
    expect(meansOf(combineRows('sum', [gone, row(1, 1, 1, 1, 1, 1)], quiet))).toEqual([6, 1, 1, 1, 1, 1])
    const late = row(5, 5, 5, 5, 5, NaN)
    expect(meansOf(combineRows('sum', [late, row(1, 1, 1, 1, 1, 1)], quiet))).toEqual([6, 6, 6, 6, 6, NaN])
  })
  test('mean, highest and lowest are of what was heard', () => {
    const rows = [row(1, NaN), row(3, NaN), row(NaN, 8)]
    const two = { fromMs: 0, stepMs: HOUR_MS, columns: 2 }
    expect(meansOf(combineRows('mean', rows, two))).toEqual([2, 8])
    expect(meansOf(combineRows('max', rows, two))).toEqual([3, 8])
    expect(meansOf(combineRows('min', rows, two))).toEqual([1, 8])
  })
  test('a difference and a quotient have a gap where either has one, and by nothing is not divided', () => {
    expect(meansOf(againstRow('less', row(5, NaN, 3), row(2, 1, NaN)))).toEqual([3, NaN, NaN])
    expect(meansOf(againstRow('by', row(6, 1), row(3, 0)))).toEqual([2, NaN])
  })
  test('a rate is the growth of a total a second; a total that falls began anew, and what was missed is not spread', () => {
    const minute = { fromMs: 0, stepMs: 60_000, columns: 5 }
    expect(meansOf(rateRow(row(0, 600, 60, NaN, 660), minute))).toEqual([NaN, 10, NaN, NaN, NaN])
  })
  test('quartiles are those of SQL PERCENTILE_CONT: of 1, 2, 3, 4, 10 they are 2, 3 and 4', () => {
    const one = { fromMs: 0, stepMs: HOUR_MS, columns: 1 }
    const band = bandOf([row(10), row(1), row(4), row(2), row(3), row(NaN)], one)
    expect([band.min[0], band.low[0], band.median[0], band.high[0], band.max[0]]).toEqual([1, 2, 3, 4, 10])
  })
})

test('statistics of what was computed weigh each column alike; 95 of 100 columns lie at or below the percentile', () => {
  const values = Array.from({ length: 101 }, (_, index) => index)
  const of = statisticsOfRow(row(...values), { at: 90, direction: 'above' })
  expect(of).toMatchObject({ last: 100, min: 0, mean: 50, max: 100, p95: 95, p99: 99 })
  expect(of.beyond).toBeCloseTo(10 / 101)
  expect(statisticsOfRow(row(NaN), null).mean).toBeNull()
})

test('a name that stands for several measures says which; another stays as it is', () => {
  expect(
    namesApart([
      { name: 'petrel-03', measure: 'system.cpu.utilization' },
      { name: 'petrel-03', measure: 'system.memory.utilization' },
      { name: 'petrel-04', measure: 'system.cpu.utilization' },
      { name: 'petrel-04', measure: 'system.cpu.utilization' },
    ]),
  ).toEqual(['petrel-03 · Processor use', 'petrel-03 · Memory use', 'petrel-04', 'petrel-04'])
})

test('the longest stretch beyond a line ends where nothing was heard', () => {
  const values = Float64Array.from([90, 91, NaN, 92, 93, 94, 10, 95])
  expect(longestBeyond(values, HOUR_MS, { at: 80, direction: 'above' })).toBe(3 * HOUR_MS)
  expect(longestBeyond(values, HOUR_MS, { at: 20, direction: 'below' })).toBe(HOUR_MS)
})

describe('finding what to pick', () => {
  const measures = ['Processor use', 'Processor wait', 'Temperature'].map((label) => ({ of: label, label }))
  const places = ['everywhere', 'north', 'Lantern Room', 'petrel-07'].map((label) => ({ of: label, label }))
  const find = (typed: string, exists = (): boolean => true) =>
    findPicks(typed, measures, places, { most: 5, exists }).map(
      ({ measure, place }) => `${measure.label} · ${place.label}`,
    )
  test('each word begins a word of the measure or of the place', () => {
    expect(find('proc north')).toEqual(['Processor use · north', 'Processor wait · north'])
    expect(find('temperature of the lantern room')).toEqual(['Temperature · Lantern Room'])
    expect(find('proc 07')).toEqual(['Processor use · petrel-07', 'Processor wait · petrel-07'])
    expect(find('processor use')).toEqual(['Processor use · everywhere'])
    expect(find('nothing such')).toEqual([])
  })
  test('what is not there is not offered', () => {
    expect(find('proc north', () => false)).toEqual([])
  })
})

test('parts of one gear stand together after the one that is the farthest', () => {
  const rows = [
    { gearId: 2, part: 'b' },
    { gearId: 1, part: 'x' },
    { gearId: 2, part: 'a' },
    { gearId: 3, part: 'y' },
    { gearId: 2, part: 'c' },
  ]
  expect(togetherByGear(rows).map(({ part, isFurther }) => `${isFurther ? ' ' : ''}${part}`)).toEqual([
    'b',
    ' a',
    ' c',
    'x',
    'y',
  ])
})
