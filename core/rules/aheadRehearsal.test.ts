import fc from 'fast-check'
import { expect, test } from 'vitest'
import { type Foreseen, judgeAhead, type Outlook, rehearseAhead } from './index.ts'

const DAY_MS = 86_400_000
const NOW = Date.UTC(2026, 10, 29)
const rule = {
  lines: [
    { severity: 'warning', days: 30 },
    { severity: 'critical', days: 7 },
  ],
} as const
const thing = (seriesId: number, days: number | null, outlook: Partial<Outlook> = {}): Foreseen => ({
  seriesId,
  name: `store ${seriesId}`,
  outlook: {
    verdict: days === null ? 'not-in-sight' : 'crosses',
    runOutMs: days === null ? null : NOW + days * DAY_MS,
    orderedForMs: null,
    hasLevelRule: true,
    ...outlook,
  },
})
const days = (atMs: number): number => (atMs - NOW) / DAY_MS

test('what it would tell now stands first, then what it would tell when', () => {
  const things = [
    thing(1, 50),
    thing(2, 12),
    thing(3, 3),
    thing(4, 119),
    thing(5, 121),
    thing(6, null),
    thing(7, null, { verdict: 'over' }),
    thing(9, null, { verdict: 'over', hasLevelRule: false }),
    // Ordered, and expected to be there on the tenth day: told from the day after it on, if it has not come.
    thing(8, 15, { orderedForMs: NOW + 10 * DAY_MS }),
  ]
  const { told, now, sentence } = rehearseAhead(rule, things, NOW)
  expect(told.map(({ seriesId, severity, atMs }) => [seriesId, severity, days(atMs)])).toEqual([
    [9, 'critical', 0],
    [3, 'critical', 0],
    [2, 'warning', 0],
    [8, 'critical', 11],
    [1, 'warning', 20],
    [4, 'warning', 89],
  ])
  expect(now).toBe(3)
  expect(sentence).toBe(
    'It would tell of 3 things now, 2 of them critical, and of 3 more within 90 days, if all goes as forecast. It looks at 9 things.',
  )
})

test('it says when it would tell of nothing, and when there is nothing', () => {
  expect(rehearseAhead(rule, [thing(1, null)], NOW).sentence).toMatch(
    /^It would tell of nothing now, and of no more/,
  )
  expect(rehearseAhead(rule, [thing(1, 40)], NOW).sentence).toMatch(
    /^It would tell of nothing now, and of 1 thing /,
  )
  expect(rehearseAhead(rule, [], NOW).sentence).toMatch(/in force on nothing/)
  expect(rehearseAhead(rule, [], NOW, 3).sentence).toBe(
    'It would be in force on nothing. On 3 things in its scope a rule with a narrower scope has precedence.',
  )
  expect(rehearseAhead({ lines: [] }, [thing(1, 1)], NOW).told).toEqual([])
})

test('what is rehearsed is what is judged, at that moment and not a moment before', () => {
  fc.assert(
    fc.property(
      fc.double({ min: -5, max: 200, noNaN: true }),
      fc.option(fc.integer({ min: -3, max: 60 })),
      (left, ordered) => {
        const one = thing(1, left, { orderedForMs: ordered === null ? null : NOW + ordered * DAY_MS })
        const [told] = rehearseAhead(rule, [one], NOW).told
        const at = (atMs: number) => judgeAhead(rule, one.outlook, { nowMs: atMs, held: null }).severity
        if (told === undefined) expect(at(NOW + 90 * DAY_MS)).toBeNull()
        else {
          expect(at(told.atMs + 1)).toBe(told.severity)
          if (told.atMs > NOW) expect(at(told.atMs - 1)).toBeNull()
        }
      },
    ),
  )
})
