import fc from 'fast-check'
import { expect, test } from 'vitest'
import { DAY_MS, forecastAge, type ForecastInput } from './index.ts'

const NOW = Date.UTC(2026, 10, 29)
const input = (ages: readonly number[], line: number): ForecastInput => ({
  kind: 'wear',
  atMs: Float64Array.from(ages, (_, index) => NOW - (ages.length - index) * DAY_MS),
  values: Float64Array.from(ages),
  line,
  direction: 'up',
  nowMs: NOW,
  horizonDays: 730,
  seed: 1,
})

test('the date is that of the calendar, however short the past is', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 4000 }), fc.integer({ min: 0, max: 729 }), (age, left) => {
      const { told, otherMs } = forecastAge(input([age - 1], age + left), [age + left + 800], 'It ages.')
      expect(told.verdict).toBe(left === 0 ? 'over' : 'crosses')
      expect([told.p10Ms, told.p50Ms, told.p90Ms]).toEqual(Array(3).fill(NOW + left * DAY_MS))
      expect(told.days.p50[left]).toBe(age + left)
      expect(otherMs).toEqual([null])
    }),
  )
})

test('what lies beyond the horizon is not in sight, what was never heard is too little; a gap changes nothing', () => {
  expect(forecastAge(input([99], 900), [], 'It ages.').told).toMatchObject({
    verdict: 'not-in-sight',
    p50Ms: null,
  })
  expect(forecastAge(input([NaN, NaN], 900), [5], 'It ages.')).toMatchObject({
    told: { verdict: 'too-little', sentence: 'Its age is not known.' },
    otherMs: [null],
  })
  expect(forecastAge(input([10, NaN, NaN], 20), [], 'It ages.').told.p50Ms).toBe(NOW + 7 * DAY_MS)
})
