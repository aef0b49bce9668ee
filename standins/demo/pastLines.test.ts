import { describe, expect, test } from 'vitest'
import { pastLines } from './pastLines.ts'

const BORN = Date.UTC(2026, 5, 14, 9, 30)

describe('lines of the week before the demo', () => {
  const lines = pastLines(BORN)

  test('are the same for the same beginning, in order, within the week and not in its last hour', () => {
    expect(pastLines(BORN)).toEqual(lines)
    const times = lines.map(({ atMs }) => atMs)
    expect(times).toEqual([...times].sort((one, other) => one - other))
    expect(times[0]).toBeGreaterThanOrEqual(BORN - 7 * 86_400_000)
    expect(times.at(-1)).toBeLessThan(BORN - 3_600_000)
  })

  test('are of each day, of more than thirty gear, and nothing that a shipped rule calls somebody for', () => {
    const days = new Set(lines.map(({ atMs }) => Math.floor((BORN - atMs) / 86_400_000)))
    expect(days.size).toBe(7)
    expect(new Set(lines.map(({ gear }) => gear)).size).toBeGreaterThan(30)
    expect(Math.min(...lines.map(({ severity }) => severity))).toBe(3)
  })
})
