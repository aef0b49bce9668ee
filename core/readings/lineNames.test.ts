import fc from 'fast-check'
import { expect, test } from 'vitest'
import { namePlaces } from './index.ts'

const places = (lines: readonly number[], height: number, floor = 0): string[] =>
  namePlaces(lines, height, floor).map(({ side, isAbove }) => `${side} ${isAbove ? 'above' : 'below'}`)

test('the highest line is named above, the others below, where there is room', () => {
  expect(places([25], 5)).toEqual(['left above'])
  expect(places([10, 40, 25], 5)).toEqual(['left below', 'left above', 'left below'])
})

test('names of lines close together keep clear of each other, and of the lines', () => {
  // Five lines of two rules on one chart of temperatures from 0 to 60 °C: a name is as high as 6.3 °C there.
  expect(places([27, 32, 45, 55, 15], 6.3)).toEqual([
    'left below',
    'left above',
    'left below',
    'left above',
    'left below',
  ])
  expect(places([30, 32, 34], 6)).toEqual(['right below', 'left below', 'left above'])
  expect(places([2, 20], 6), 'below it the axis ends').toEqual(['left above', 'left above'])
})

test('no two names overlap while there are fewer than four lines to a side and height', () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: 20, max: 80 }), { minLength: 1, maxLength: 3 }),
      fc.integer({ min: 1, max: 15 }),
      (lines, height) => {
        const names = namePlaces(lines, height, 0).map(({ side, isAbove }, index) => ({
          side,
          from: isAbove ? lines[index]! : lines[index]! - height,
        }))
        for (const [index, a] of names.entries())
          for (const b of names.slice(index + 1))
            expect(a.side !== b.side || Math.abs(a.from - b.from) >= height).toBe(true)
      },
    ),
  )
})
