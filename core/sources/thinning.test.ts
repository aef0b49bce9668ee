import { expect, test } from 'vitest'
import type { MeasureKey } from '../catalogue/index.ts'
import { rowsBack, thin } from './thinning.ts'

const findings = (measures: readonly MeasureKey[]) => ({
  gear: [],
  links: [],
  readings: measures.map((measure) => ({ gear: 'x', part: null, measure, value: 1 })),
})

test('a slower measure is kept each so many seconds, the others each time', () => {
  const last = new Map<MeasureKey, number>()
  const kept = Array.from({ length: 21 }, (_, index) => {
    const atMs = 1_000_000 + index * 60_000
    const found = thin(findings(['hw.power', 'hw.drive.life_left']), {
      atMs,
      intervalMs: 60_000,
      slower: { 'hw.drive.life_left': 300 },
      last,
    })
    return found.readings.length
  })
  expect(kept).toEqual(Array.from({ length: 21 }, (_, index) => (index % 5 === 0 ? 2 : 1)))
})
test('a slot that comes a little early is the right one, and a clock set back begins anew', () => {
  const at = {
    intervalMs: 60_000,
    slower: { 'hw.power': 300 } as const,
    last: new Map<MeasureKey, number>([['hw.power', 1_000_000]]),
  }
  expect(thin(findings(['hw.power']), { ...at, atMs: 1_280_000 }).readings).toHaveLength(1)
  expect(thin(findings(['hw.power']), { ...at, atMs: 1_400_000 }).readings).toHaveLength(0)
  expect(thin(findings(['hw.power']), { ...at, atMs: 900_000 }).readings).toHaveLength(1)
})
test('how far back the newest value may stand', () => {
  expect(rowsBack(60, {})).toBe(1)
  expect(rowsBack(60, { 'hw.power': 3600, 'hw.errors': 300 })).toBe(61)
})
