import { afterAll, beforeAll, expect, test } from 'vitest'
import { z } from 'zod'
import { sayInputWords } from './inputWords.ts'

beforeAll(sayInputWords)
afterAll(() => {
  z.config(z.locales.en())
})

const said = (schema: z.ZodType, input: unknown): string | undefined =>
  schema.safeParse(input).error?.issues[0]?.message

test('what no schema words itself is said in words, with what was received', () => {
  expect(said(z.number(), null)).toBe('a number was expected, and nothing (null) was given')
  expect(said(z.number(), 'twelve')).toBe('a number was expected, and “twelve” was given')
  expect(said(z.object({ a: z.string() }), {})).toBe('it is missing')
  expect(said(z.enum(['one', 'two']), 'three')).toBe('“three” is none of one, two')
  expect(said(z.string().max(3), 'four')).toBe('it has at most 3 characters')
  expect(said(z.array(z.number()).min(1), [])).toBe('it has at least 1 entry')
  expect(said(z.number().max(15), 16)).toBe('16 is given, and it is at most 15')
  expect(said(z.strictObject({}), { extra: 1 })).toBe('nothing here is called “extra”')
  expect(said(z.url(), 'x y')).toMatch(/^“x y” is not written as/)
  expect(said(z.union([z.string(), z.null()]), 12)).toBe('12 cannot be used')
})

test('what a schema words itself stays', () => {
  expect(said(z.number('Enter a number'), null)).toBe('Enter a number')
})
