import { describe, expect, test } from 'vitest'
import { CLOCK, GAP, keysOf, Stale, topicKey } from './topics.ts'

describe('what is asked again', () => {
  const isAsked = (stale: Stale, ...keys: string[]) => {
    const take = stale.take()
    return keys.map(take)
  }
  test('is what the change is about, and nothing else', () => {
    const stale = new Stale()
    stale.add(keysOf({ topics: ['readings'], sourceIds: [7] }))
    const keys = [
      topicKey('readings'),
      topicKey('readings', 7),
      topicKey('readings', 8),
      topicKey('alerts'),
      '/x',
    ]
    expect(isAsked(stale, ...keys)).toEqual([true, true, false, false, false])
    expect(stale.isEmpty, 'once').toBe(true)
  })
  test('is gathered until it is asked', () => {
    const stale = new Stale()
    stale.add(keysOf({ topics: ['alerts'], sourceIds: [] }))
    stale.add(new Set([topicKey(CLOCK)]))
    expect(isAsked(stale, topicKey('alerts'), topicKey(CLOCK), topicKey('rules'))).toEqual([
      true,
      true,
      false,
    ])
  })
  test('is everything of ours when something may have been missed', () => {
    const stale = new Stale()
    stale.add(keysOf({ topics: ['alerts', GAP], sourceIds: [3] }))
    stale.add(keysOf({ topics: ['rules'], sourceIds: [] }))
    expect(isAsked(stale, topicKey('places'), topicKey('readings', 9), '/gear/__data.json')).toEqual([
      true,
      true,
      false,
    ])
  })
})
