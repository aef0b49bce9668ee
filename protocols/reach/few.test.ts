import { expect, test } from 'vitest'
import { Few } from './few.ts'

test('so many of each within a while; then again', () => {
  let nowMs = 0
  const few = new Few(2, 1000, () => nowMs)
  expect([few.take('a'), few.take('a'), few.take('a'), few.take('b')]).toEqual([true, true, false, true])
  nowMs = 999
  expect(few.take('a')).toBe(false)
  nowMs = 1000
  expect([few.take('a'), few.take('a'), few.take('a')]).toEqual([true, true, false])
})

test('what is made up does not fill the memory', () => {
  const few = new Few(1, 1000, () => 0)
  few.take('first')
  for (let count = 0; count < 10_000; count += 1) few.take(`made up ${count}`)
  expect(few.take('first'), 'the oldest went').toBe(true)
})
