import { expect, test } from 'vitest'
import { Tries } from './tries.ts'

test('thirty wrong passwords within ten minutes, and nobody may try this account for a while; others may', () => {
  let nowMs = 0
  const tries = new Tries(() => nowMs)
  for (let count = 0; count < 30; count += 1) {
    expect(tries.waitSeconds('Asta@example.org')).toBe(0)
    tries.wrong('asta@example.org ')
    nowMs += 1000
  }
  expect(tries.waitSeconds('asta@example.org')).toBe(570)
  expect(tries.waitSeconds('bo@example.org')).toBe(0)
  nowMs = 600_001
  expect(tries.waitSeconds('asta@example.org')).toBe(0)
})

test('the right password forgets the wrong ones', () => {
  const tries = new Tries(() => 0)
  for (let count = 0; count < 29; count += 1) tries.wrong('a')
  tries.right('a')
  for (let count = 0; count < 29; count += 1) tries.wrong('a')
  expect(tries.waitSeconds('a')).toBe(0)
})

test('made-up accounts do not fill the memory', () => {
  const tries = new Tries(() => 0)
  for (let count = 0; count < 30; count += 1) tries.wrong('first')
  for (let count = 0; count < 10_001; count += 1) tries.wrong(`made up ${count}`)
  expect(tries.waitSeconds('first'), 'the oldest went').toBe(0)
})
