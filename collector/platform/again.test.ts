import { expect, test } from 'vitest'
import { Again } from './again.ts'

test('a thousand calls while it runs are one more run, that begins after the last of them', async () => {
  let asked = 0
  const seen: number[] = []
  const again = new Again(async () => {
    seen.push(asked)
    await new Promise((resolve) => setImmediate(resolve))
  })
  const calls = Array.from({ length: 1000 }, () => {
    asked += 1
    return again.run()
  })
  await Promise.all(calls)
  expect(seen).toEqual([1, 1000])
  await again.run()
  expect(seen).toHaveLength(3)
})

test('one that fails says so to who asked, and the next is done all the same', async () => {
  let count = 0
  const again = new Again(async () => {
    count += 1
    await Promise.resolve()
    if (count === 1) throw new Error('the first')
  })
  const [first, second] = await Promise.allSettled([again.run(), again.run()])
  expect(first).toMatchObject({ status: 'rejected' })
  expect(second).toMatchObject({ status: 'fulfilled' })
  expect(count).toBe(2)
})
