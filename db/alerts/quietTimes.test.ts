import { describe, expect, test } from 'vitest'
import { problemOfRepeating, repeatingWords, timeOfRepeating } from './quietTimes.ts'

const at = (text: string): number => Date.parse(text)
// Sundays from two to four in Oslo, begun on 4 October 2026, when clocks there are two hours ahead of UTC.
const first = { fromMs: at('2026-10-04T00:00:00Z'), toMs: at('2026-10-04T02:00:00Z') }
const sundays = (now: string) => {
  const time = timeOfRepeating(first, 'FREQ=WEEKLY;BYDAY=SU', at(now), 'Europe/Oslo')
  return time === null ? null : [new Date(time.fromMs).toISOString(), new Date(time.toMs!).toISOString()]
}

describe('a quiet that repeats', () => {
  test.each([
    ['before the first', '2026-10-01T00:00:00Z', '2026-10-04T00:00:00.000Z'],
    ['in the first', '2026-10-04T01:59:00Z', '2026-10-04T00:00:00.000Z'],
    ['after it', '2026-10-04T02:00:00Z', '2026-10-11T00:00:00.000Z'],
    ['in winter by the same clock', '2026-11-10T00:00:00Z', '2026-11-15T01:00:00.000Z'],
  ])('%s', (_, now, from) => {
    expect(sundays(now)?.[0]).toBe(from)
  })
  test('ends when its rule ends', () => {
    expect(
      timeOfRepeating(first, 'FREQ=WEEKLY;COUNT=2', at('2026-10-20T00:00:00Z'), 'Europe/Oslo'),
    ).toBeNull()
  })
  test('rules that are none are said to be', () => {
    expect(problemOfRepeating('FREQ=WEEKLY;BYDAY=SU')).toBeNull()
    expect(problemOfRepeating('FREQ=HOURLY')).toBe('A quiet repeats by the day at most.')
    expect(problemOfRepeating('sometimes')).toContain('«sometimes»')
    expect(repeatingWords('FREQ=WEEKLY;BYDAY=SU')).toBe('every week on Sunday')
  })
})
