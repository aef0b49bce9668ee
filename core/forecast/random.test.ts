import { expect, test } from 'vitest'
import { normal, uniform } from './random.ts'

/** Shares of the normal distribution below a number, by Python's `statistics.NormalDist().cdf`. */
const BELOW: readonly (readonly [at: number, share: number])[] = [
  [-3.5, 0.0002326290790355401],
  [-3, 0.0013498980316301035],
  [-2, 0.02275013194817921],
  [-1, 0.15865525393145707],
  [-0.1, 0.460172162722971],
  [0, 0.5],
  [0.3, 0.6179114221889526],
  [1.7, 0.955434537241457],
  [2.5, 0.9937903346742238],
  [3.6, 0.9998408914098424],
]
const MANY = 400_000

test('numbers are normal, from the middle to the tails', () => {
  const draw = normal(uniform(7))
  const numbers = Float64Array.from({ length: MANY }, draw)
  for (const [at, share] of BELOW) {
    const below = numbers.reduce((count, number) => count + (number < at ? 1 : 0), 0) / MANY
    // Four deviations of a share that is counted so often.
    expect(Math.abs(below - share), `below ${at}`).toBeLessThan(4 * Math.sqrt((share * (1 - share)) / MANY))
  }
  const mean = numbers.reduce((sum, number) => sum + number, 0) / MANY
  const fourth = numbers.reduce((sum, number) => sum + number ** 4, 0) / MANY
  expect(Math.abs(mean)).toBeLessThan(4 / Math.sqrt(MANY))
  expect(Math.abs(fourth - 3)).toBeLessThan(4 * Math.sqrt(96 / MANY))
})

test('one does not tell of the next, and the same seed gives the same', () => {
  const draw = normal(uniform(11))
  const numbers = Float64Array.from({ length: MANY }, draw)
  let along = 0
  for (let index = 1; index < MANY; index += 1) along += numbers[index]! * numbers[index - 1]!
  expect(Math.abs(along / MANY)).toBeLessThan(4 / Math.sqrt(MANY))
  const again = normal(uniform(11))
  expect(Array.from({ length: 100 }, again)).toEqual([...numbers.subarray(0, 100)])
})
