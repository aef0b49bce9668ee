import fc from 'fast-check'
import { expect, test } from 'vitest'
import { medianOf, quantileOf, quantilesOf, spreadOf } from './numbers.ts'

test('selection finds what sorting finds', () => {
  const number = fc.oneof(fc.double({ noNaN: true }), fc.constantFrom(0, 1, Infinity), fc.integer({ max: 3 }))
  fc.assert(
    fc.property(
      fc.oneof(
        fc.array(number, { maxLength: 70 }),
        // As a history's are: many, around one place, some of them far away or at infinity.
        fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: 65, maxLength: 400 }),
        fc.array(number, { minLength: 65, maxLength: 400 }),
      ),
      fc.array(fc.double({ min: 0, max: 1, noNaN: true })),
      (values, any) => {
        const shares = [...any].sort((a, b) => a - b)
        const sorted = Float64Array.from(values).sort()
        const found = quantilesOf(Float64Array.from(values), shares)
        expect(found).toEqual(shares.map((share) => quantileOf(sorted, share)))
      },
    ),
  )
})

test('of numbers that are none it comes to an end', () => {
  expect(quantilesOf(Float64Array.of(NaN, 1, NaN, 3, NaN), [0.1, 0.5, 0.9])).toHaveLength(3)
  expect(quantilesOf(new Float64Array(0), [0.5])).toEqual([NaN])
})

test('median and spread by hand, and nothing is put into another order', () => {
  const values = [9, 1, 4, 4, 30]
  expect(medianOf(values)).toBe(4)
  expect(medianOf([3, 1, 2, 10])).toBe(2.5)
  // Distances 5, 3, 0, 0, 26: half lie within 3.
  expect(spreadOf(values)).toBeCloseTo(1.4826 * 3, 12)
  expect(values).toEqual([9, 1, 4, 4, 30])
})
