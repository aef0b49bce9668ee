import fc from 'fast-check'
import { expect, test } from 'vitest'
import { nextLags, skewOf, skewSeverity } from './skew.ts'

test('one push dated ahead proves it, five late by the same time show it, and a queue that holds back does neither', () => {
  expect(skewOf([], 10_000)).toBeNull()
  expect(skewOf([-90_000], 10_000)).toBe(90_000)
  expect(skewOf([240_000, 240_300, 240_100, 240_900], 10_000)).toBeNull()
  expect(skewOf([240_000, 240_300, 240_100, 240_900, 240_200], 10_000)).toBe(-240_000)
  expect(skewOf([60_000, 45_000, 30_000, 90_000, 75_000], 10_000)).toBeNull()
  expect(skewOf([90_000, 200, 300, 150, 400], 10_000)).toBe(0)
  // Dated from the beginning of each minute, and pushed 39 s into it.
  expect(skewOf([39_000, 39_100, 39_000, 39_200, 39_000], 60_000)).toBe(0)
  expect(skewOf([99_000, 99_100, 99_000, 99_200, 99_000], 60_000)).toBe(-99_000)
  expect([400_000, 31_000, 20_000, -10_000, -31_000].map(skewSeverity)).toEqual([
    'critical',
    'warning',
    undefined,
    null,
    'warning',
  ])
})

test('a clock that is off by anything over the line is found within five pushes, whatever the way takes', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: -3_600_000, max: 3_600_000 }).filter((off) => Math.abs(off) > 36_000),
      fc.array(fc.integer({ min: 0, max: 4000 }), { minLength: 5, maxLength: 5 }),
      (offMs, waysMs) => {
        const lags = waysMs.reduce<number[]>((all, way) => nextLags(all, way - offMs), [])
        const skew = skewOf(lags, 10_000)
        expect(skew).not.toBeNull()
        expect(Math.abs(skew! - offMs)).toBeLessThanOrEqual(4000)
      },
    ),
  )
})
