import { expect, test } from 'vitest'
import { fitModels } from './regress.ts'
import { Whitener } from './whiten.ts'
import { normal, uniform } from './random.ts'

/** Solves a symmetric system by Gauss and Jordan: the long way, beside which the filter is held. */
function solve(matrix: number[][], right: number[]): number[] {
  const rows = matrix.map((row, index) => [...row, right[index]!])
  for (let pivot = 0; pivot < rows.length; pivot += 1) {
    const best = rows
      .slice(pivot)
      .reduce(
        (most, row, at) => (Math.abs(row[pivot]!) > Math.abs(rows[most]![pivot]!) ? at + pivot : most),
        pivot,
      )
    ;[rows[pivot], rows[best]] = [rows[best]!, rows[pivot]!]
    for (let row = 0; row < rows.length; row += 1) {
      if (row === pivot) continue
      const factor = rows[row]![pivot]! / rows[pivot]![pivot]!
      for (let column = pivot; column <= rows.length; column += 1)
        rows[row]![column]! -= factor * rows[pivot]![column]!
    }
  }
  return rows.map((row, index) => row[rows.length]! / row[index]!)
}

const AT = Float64Array.of(-21, -20, -18, -17, -16, -13, -12, -11, -9, -8, -6, -5, -3, -2, -1, 0)
const draw = normal(uniform(5))
const VALUES = AT.map((at) => 40 + 1.3 * at + 2 * draw())

// Generalised least squares with the whole covariance matrix: white noise, a random walk from the first instant on, and a
// first level of which nothing is known (a very large variance).
function slopeTheLongWay(walk: number): number {
  const covariance = Array.from(AT, (a, i) =>
    Array.from(AT, (b, j) => (i === j ? 1 - walk : 0) + walk * (Math.min(a, b) - AT[0]!) + 1e7),
  )
  const weighted = (column: number[]): number[] => solve(covariance, column)
  const x = [...AT]
  const y = [...VALUES]
  const [wx, one] = [weighted(x), weighted(x.map(() => 1))]
  const product = (a: number[], b: number[]): number =>
    a.reduce((sum, each, index) => sum + each * b[index]!, 0)
  const [xx, x1, xy, y1, n] = [
    product(wx, x),
    product(one, x),
    product(wx, y),
    product(one, y),
    product(
      one,
      x.map(() => 1),
    ),
  ]
  return (xy * n - x1 * y1) / (xx * n - x1 * x1)
}

test.each([0, 0.1, 0.5])(
  'with a walk of %f the filter gives the slope of the whole covariance matrix',
  (walk) => {
    const whitener = new Whitener(AT, walk)
    const [x, y] = [whitener.apply(AT).white, whitener.apply(VALUES).white]
    const slope =
      x.reduce((sum, each, i) => sum + each * y[i]!, 0) / x.reduce((sum, each) => sum + each * each, 0)
    expect(slope).toBeCloseTo(slopeTheLongWay(walk), 4)
  },
)

test('of a line without noise nothing is left, and the trend is its slope', () => {
  const [model] = fitModels({ atDays: AT, values: AT.map((at) => 3 - 0.25 * at) })
  expect(model!.base).toBe('line')
  expect(model!.beta[0]).toBeCloseTo(-0.25, 9)
})
