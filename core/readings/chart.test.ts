import fc from 'fast-check'
import { expect, test } from 'vitest'
import { commonGaps, type Gap } from './index.ts'

const gap = (fromMs: number, toMs: number): Gap => ({ fromMs, toMs })

test.each([
  ['no curve misses nothing', [], []],
  ['one curve misses what it misses', [[gap(1, 5), gap(7, 9)]], [gap(1, 5), gap(7, 9)]],
  ['two miss what both do', [[gap(1, 5), gap(7, 9)], [gap(4, 8)]], [gap(4, 5), gap(7, 8)]],
  ['one that was heard all the time leaves nothing', [[gap(1, 5)], []], []],
  ['spans that only touch have nothing in common', [[gap(1, 5)], [gap(5, 8)]], []],
])('%s', (_, all, common) => {
  expect(commonGaps(all)).toEqual(common)
})

/** Gaps in order and apart, from the lengths of what is heard and what is missed in turns. */
const gaps = fc
  .array(fc.tuple(fc.integer({ min: 1, max: 9 }), fc.integer({ min: 1, max: 9 })), { maxLength: 6 })
  .map((turns) => {
    let at = 0
    return turns.map(([heard, missed]) => {
      const fromMs = at + heard
      at = fromMs + missed
      return gap(fromMs, at)
    })
  })

test('a moment is in a common gap when it is in a gap of every curve', () => {
  fc.assert(
    fc.property(
      fc.array(gaps, { minLength: 1, maxLength: 4 }),
      fc.integer({ min: 0, max: 110 }),
      (all, half) => {
        const at = half + 0.5
        const isIn = (some: readonly Gap[]): boolean =>
          some.some(({ fromMs, toMs }) => fromMs < at && at < toMs)
        expect(isIn(commonGaps(all))).toBe(all.every(isIn))
      },
    ),
  )
})
