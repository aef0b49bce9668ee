import fc from 'fast-check'
import { expect, test } from 'vitest'
import type { Findings } from '../gear/index.ts'
import { wattsAlone, wattsAlonePast, withWattsAlone } from './index.ts'

// By hand: of a rack with strips A (1,900 W) and B, of which the outlets of two-cord gear carry 310 W and 420 W.
test.each([
  { own: 1900, neighbours: [[310, 420]], watts: 2630 },
  // A third strip shares one gear: it is the worse loss that counts, for one is lost at a time.
  { own: 1900, neighbours: [[310, 420], [900]], watts: 2800 },
  { own: 1900, neighbours: [[0, 0]], watts: 1900 },
  { own: 1900, neighbours: [[310, null]], watts: null },
  { own: null, neighbours: [[310]], watts: null },
  { own: 1900, neighbours: [], watts: null },
])('a strip of $own W with neighbours $neighbours carries $watts W alone', ({ own, neighbours, watts }) => {
  expect(wattsAlone(own, neighbours)).toBe(watts)
})

const watts = fc.integer({ min: 0, max: 3000 })
test('it is never less than its own load, and never less for an outlet more', () => {
  fc.assert(
    fc.property(watts, fc.array(fc.array(watts), { minLength: 1 }), watts, (own, neighbours, more) => {
      const alone = wattsAlone(own, neighbours)!
      expect(alone).toBeGreaterThanOrEqual(own)
      expect(
        wattsAlone(
          own,
          neighbours.map((outlets) => [...outlets, more]),
        ),
      ).toBeGreaterThanOrEqual(alone)
      expect(wattsAlone(own, [...neighbours].reverse())).toBe(alone)
    }),
  )
})

test('of the past each column is what it is now', () => {
  const column = fc.option(watts, { nil: NaN })
  fc.assert(
    fc.property(fc.array(fc.tuple(column, column, column), { minLength: 1 }), (columns) => {
      const of = (index: 0 | 1 | 2) => Float64Array.from(columns, (each) => each[index])
      const past = wattsAlonePast(of(0), [[of(1)], [of(2)]])
      columns.forEach(([own, one, two], at) =>
        expect(past[at]).toBe([own, one, two].some(Number.isNaN) ? NaN : own + Math.max(one, two)),
      )
    }),
  )
})

test('it is told beside the power of a strip as a whole, and of no other gear', () => {
  const findings: Findings = {
    gear: [],
    links: [],
    readings: [
      { gear: 'A', part: null, measure: 'hw.power', value: 1900 },
      { gear: 'A', part: 'outlet 1', measure: 'hw.power', value: 300 },
      { gear: 'server', part: null, measure: 'hw.power', value: 600 },
    ],
  }
  expect(withWattsAlone(findings, new Map([['A', [[310]]]])).readings.slice(3)).toEqual([
    { gear: 'A', part: null, measure: 'hw.power.alone', value: 2210 },
  ])
  expect(withWattsAlone(findings, new Map([['B', [[310]]]]))).toBe(findings)
})
