import { expect, test } from 'vitest'
import { leadDaysOf } from './index.ts'

test('the nearest word counts: of the gear, of its tags the longest, of the topic, then what ships', () => {
  const all = { topic: 'Wear', tag: null, gearId: null, days: 20 } as const
  const slow = { ...all, tag: 'light-station', days: 60 }
  const quick = { ...all, tag: 'hall', days: 5 }
  const own = { ...all, gearId: 7, days: 3 }
  const of = { topic: 'Wear', gearId: 1, tags: [], shipped: 14 } as const
  expect(leadDaysOf([], of)).toBe(14)
  expect(leadDaysOf([all], of)).toBe(20)
  expect(leadDaysOf([{ ...all, topic: 'Space' }], of)).toBe(14)
  expect(leadDaysOf([all, slow, quick], { ...of, tags: ['hall', 'light-station'] })).toBe(60)
  expect(leadDaysOf([all, slow, quick, own], { ...of, tags: ['hall'], gearId: 7 })).toBe(3)
})
