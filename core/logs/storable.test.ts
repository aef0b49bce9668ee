import fc from 'fast-check'
import { expect, test } from 'vitest'
import { storable } from './storable.ts'

test.each([
  ['petrel\u0000-07', 'petrel -07'],
  ['a\r\n\tb', 'a b'],
  ['half \ud83d of one', 'half \ufffd of one'],
  ['\u0000\u0000', ''],
  ['Ängstrøm ☂', 'Ängstrøm ☂'],
])('%j is stored as %j', (text, stored) => {
  expect(storable(text, 100)).toBe(stored)
})
test('lines stay where they are asked for; what is cut is cut between characters', () => {
  expect(storable('a\n\tb\u0000', 100, true)).toBe('a\n\tb')
  expect(storable('ab☂\ud83d\ude00', 4)).toBe('ab☂\ufffd')
})
test('whatever comes, what is stored has no NUL, is well-formed, and is no longer than it may be', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), fc.nat(40), fc.boolean(), (text, longest, keepsLines) => {
      const stored = storable(text, longest, keepsLines)
      expect(stored).not.toContain('\u0000')
      expect(stored.isWellFormed()).toBe(true)
      expect(stored.length).toBeLessThanOrEqual(longest)
    }),
  )
})
