import fc from 'fast-check'
import { expect, test } from 'vitest'
import { dot } from './numbers.ts'
import { normal, uniform } from './random.ts'
import { Basis, type Candidate, Pool, rateFrom, stepAt } from './regress.ts'
import { Whitener } from './whiten.ts'

const DAYS = 90
const PRICE = 9

function courseOf(seed: number, walk: number) {
  const draw = normal(uniform(seed))
  const atDays = Float64Array.from({ length: DAYS }, (_, index) => index - DAYS)
  let level = 0
  const values = atDays.map((at) => {
    level += 0.4 * draw() + (at === -50 ? 12 : 0) + (at > -30 ? 1 : 0)
    return level + draw()
  })
  const whitener = new Whitener(atDays, walk)
  const rest = whitener.apply(values).white
  const terms = [...atDays.subarray(2)].flatMap((at) => [stepAt(at), rateFrom(at)])
  const candidates = terms.slice(0, -1).map((term): Candidate => {
    const { white } = whitener.apply(atDays.map(term.valueAt))
    return { term, white, from: 0, price: PRICE, square: dot(white, white), along: dot(white, rest) }
  })
  return { rest, candidates }
}

/** What is left of a column beside those that are in, the long way: twice, so that no rounding stays. */
function leftOf(column: Float64Array, columns: readonly Float64Array[]): Float64Array {
  const left = column.slice()
  for (let round = 0; round < 2; round += 1)
    for (const each of columns) {
      const shared = dot(left, each)
      left.forEach((value, index) => (left[index] = value - shared * each[index]!))
    }
  return left
}

test('which candidate is worth most is known without looking at their columns again', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e6 }), fc.constantFrom(0, 0.03, 0.5), (seed, walk) => {
      const { rest, candidates } = courseOf(seed, walk)
      const products = (own: number) =>
        Float64Array.from(candidates, ({ white }) => dot(white, candidates[own]!.white))
      const [pool, basis] = [new Pool(candidates, products), new Basis(rest)]
      const floor = 1e-9
      const worthOf = ({ white, square }: Candidate): number => {
        const left = leftOf(white, basis.columns)
        const length = dot(left, left)
        if (!(length > 1e-8 * square)) return 0
        const gain = Math.min(dot(left, rest) ** 2 / length, basis.squares - floor / 2)
        return -white.length * Math.log1p(-gain / basis.squares) - PRICE
      }
      for (let taken = 0; taken < 12; taken += 1) {
        const index = pool.best(basis.squares, floor)
        const most = Math.max(0, ...candidates.map(worthOf))
        if (index === null) {
          expect(most).toBeLessThan(1e-6)
          return
        }
        expect(worthOf(candidates[index]!)).toBeGreaterThan(most - 1e-6)
        const { term, white } = candidates[index]!
        expect(basis.add(term, white)).toBe(true)
        pool.takeCandidate(index, basis.upper.at(-1)!, basis.projected.at(-1)!)
      }
    }),
    { numRuns: 25 },
  )
})
