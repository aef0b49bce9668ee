import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Curve } from '../readings/index.ts'
import { countAsLevel } from './counts.ts'
import { countedCurve, gapsOf, mergedTimes } from './rehearseOthers.ts'
import { type CountRule, EVERYWHERE, ofLast } from './rule.ts'
import { rehearseSeries } from './rehearse.ts'

const MINUTE = 60_000
const curve = (...points: readonly (readonly [minute: number, value: number])[]): Curve => ({
  times: Float64Array.from(points, ([minute]) => minute * MINUTE),
  values: Float64Array.from(points, ([, value]) => value),
})

describe('a count over the past', () => {
  const rule: CountRule = {
    kind: 'count',
    key: 'r',
    name: 'r',
    why: '',
    scope: { gearKind: null, partKind: null, where: EVERYWHERE },
    measure: 'hw.temperature',
    member: { kind: 'level', direction: 'above', at: 27 },
    least: [{ severity: 'critical', count: 2 }],
    persistence: ofLast(2, 2),
  }
  const span = { fromMs: 0, toMs: 12 * MINUTE, stepMs: MINUTE }
  const one = curve([1, 20], [3, 30], [6, 30], [8, 20], [11, 20])
  const two = curve([1, 20], [4, 30], [7, 20])
  const both = [one, two].map((each) => ({ curve: each, freshMs: 3 * MINUTE }))
  test('counts who is beyond, and who has not been heard for a while not at all', () => {
    const counted = countedCurve(rule, both, span)
    expect(Array.from(counted.times, (atMs, index) => [atMs / MINUTE, counted.values[index]])).toEqual([
      [1, 0],
      [2, 0],
      [3, 1],
      [4, 2],
      [5, 2],
      [6, 2],
      [7, 1],
      [8, 0],
      [9, 0],
      [10, 0],
      [11, 0],
      [12, 0],
    ])
  })
  test('at least two for two minutes is one alert, from the first of them', () => {
    expect(rehearseSeries(countAsLevel(rule), countedCurve(rule, both, span))).toEqual([
      { fromMs: 4 * MINUTE, toMs: 7 * MINUTE, severity: 'critical' },
    ])
  })
})

describe('gaps', () => {
  const rule = { afterMs: 10 * MINUTE, toMs: 200 * MINUTE, severity: 'warning' } as const
  const every = (step: number, from: number, to: number): number[] =>
    Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, index) => (from + index * step) * MINUTE)
  test('one is noticed after its time, and ends with the next reading', () => {
    expect(gapsOf([...every(1, 0, 60), ...every(1, 90, 200)], null, rule)).toEqual([
      { fromMs: 70 * MINUTE, toMs: 90 * MINUTE, severity: 'warning' },
    ])
  })
  test('one that has not ended has no end', () => {
    expect(gapsOf(every(1, 0, 150), null, rule)).toEqual([
      { fromMs: 160 * MINUTE, toMs: null, severity: 'warning' },
    ])
  })
  test('while the source is not heard either, it is not the series that is silent', () => {
    const times = [...every(1, 0, 60), ...every(1, 90, 200)]
    expect(gapsOf(times, every(1, 0, 200), rule)).toHaveLength(1)
    expect(gapsOf(times, times, rule)).toEqual([])
  })
  test('readings that lie farther apart by themselves are no gaps', () => {
    expect(gapsOf(every(15, 0, 195), null, { ...rule, afterMs: 20 * MINUTE })).toEqual([])
    expect(gapsOf(every(30, 0, 180), null, { ...rule, afterMs: 40 * MINUTE })).toEqual([])
  })
  test('no two stretches overlap, and each lies in a real gap', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1, maxLength: 60 }), (steps) => {
        let minute = 0
        const times = steps.map((step) => (minute += step) * MINUTE)
        const found = gapsOf(times, null, { ...rule, toMs: minute * MINUTE })
        for (const [index, { fromMs, toMs }] of found.entries()) {
          expect(toMs).not.toBeNull()
          expect(toMs! - fromMs).toBeGreaterThan(0)
          expect(times.some((atMs) => atMs > fromMs - rule.afterMs && atMs < toMs!)).toBe(false)
          if (index > 0) expect(fromMs).toBeGreaterThanOrEqual(found[index - 1]!.toMs!)
        }
      }),
    )
  })
  test('instants of several series are one row', () => {
    expect([...mergedTimes([curve([1, 0], [3, 0]), curve([2, 0], [3, 0])])]).toEqual(
      [1, 2, 3].map((m) => m * MINUTE),
    )
  })
})
