import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Curve } from '../readings/index.ts'
import { EVERYWHERE, lasting, type LevelRule, ofLast, type PairRule, type Persistence } from './rule.ts'
import { rehearsalSentence } from './rehearsalWords.ts'
import { LineSearch, moveLine, rehearseSeries, summarise } from './rehearse.ts'

const MINUTE = 60_000
const plain = (text: string): string => text.replaceAll(/[\u00a0\u202f]/g, ' ')
const named = { key: 'k', name: 'n', why: 'w', scope: { gearKind: null, partKind: null, where: EVERYWHERE } }
const level = (rest: Partial<LevelRule> = {}): LevelRule => ({
  kind: 'level',
  ...named,
  of: { measure: 'hw.temperature', with: null },
  direction: 'above',
  lines: [{ severity: 'warning', at: 27, back: null }],
  persistence: ofLast(1, 1),
  ...rest,
})
const curve = (...values: number[]): Curve => ({
  times: Float64Array.from(values, (_, index) => index * MINUTE),
  values: Float64Array.from(values),
})

describe('what a rule would have raised', () => {
  test('from the first reading beyond to the way back, with the worst in between', () => {
    const rule = level({
      lines: [
        { severity: 'warning', at: 27, back: 26 },
        { severity: 'critical', at: 32, back: null },
      ],
      persistence: ofLast(2, 2),
    })
    expect(rehearseSeries(rule, curve(25, 28, 28, 33, 33, 26.5, 25, 28, 28, 25))).toEqual([
      { fromMs: MINUTE, toMs: 6 * MINUTE, severity: 'critical' },
      { fromMs: 7 * MINUTE, toMs: 9 * MINUTE, severity: 'warning' },
    ])
  })
  test('what still holds at the end has none', () => {
    expect(rehearseSeries(level(), curve(25, 28))).toEqual([
      { fromMs: MINUTE, toMs: null, severity: 'warning' },
    ])
  })
  test('a pair takes the other measure as it was in force', () => {
    const pair: PairRule = {
      kind: 'pair',
      ...named,
      first: { measure: 'hw.network.io.transmit', direction: 'above', at: 10, back: null },
      second: { measure: 'hw.network.io.receive', direction: 'below', at: 5, back: null },
      severity: 'warning',
      persistence: ofLast(1, 1),
    }
    const received: Curve = {
      times: Float64Array.of(0, 2.5 * MINUTE),
      values: Float64Array.of(9, 1),
    }
    expect(rehearseSeries(pair, curve(20, 20, 20, 20, 5), received)).toEqual([
      { fromMs: 3 * MINUTE, toMs: 4 * MINUTE, severity: 'warning' },
    ])
  })
  test('summed up: how many, how long, at which hours', () => {
    const stretches = rehearseSeries(level(), curve(28, 25, 28, 28, 25, 25, 28))
    expect(summarise(stretches, 10 * MINUTE, (atMs) => Math.floor(atMs / MINUTE) % 24)).toEqual({
      alerts: 3,
      critical: 0,
      longestMs: 4 * MINUTE,
      medianMs: 2 * MINUTE,
      heldMs: 7 * MINUTE,
      byHour: Array.from({ length: 24 }, (_, hour) => Number([0, 2, 6].includes(hour))),
    })
  })
})

describe('a line for a wished rate', () => {
  const values = fc.array(fc.integer({ min: 0, max: 20 }), { minLength: 1, maxLength: 80 })
  const persistences: fc.Arbitrary<Persistence> = fc.oneof(
    fc
      .record({ k: fc.integer({ min: 1, max: 6 }), n: fc.integer({ min: 1, max: 6 }) })
      .filter(({ k, n }) => k <= n)
      .map(({ k, n }) => ofLast(k, n)),
    fc.integer({ min: 0, max: 5 }).map((minutes) => lasting(minutes * MINUTE)),
  )
  test('counts for every level at once what a rehearsal at that level raises', () => {
    fc.assert(
      fc.property(
        values,
        persistences,
        fc.constantFrom('above' as const, 'below' as const),
        fc.integer({ min: 0, max: 19 }),
        (given, persistence, direction, whole) => {
          const rule = level({ persistence, direction })
          const search = new LineSearch(rule, 0, 20)
          search.add(curve(...given))
          // Between two whole numbers, where it does not matter on which side a line itself lies.
          const at = whole + 0.5
          const found = search.counts().find((each) => Math.abs(each.at - at) < 0.02)!
          const raised = rehearseSeries(moveLine(rule, 'warning', found.at), curve(...given))
          expect(found.alerts).toBe(raised.length)
        },
      ),
    )
  })
  test('the nearest line with no more alerts than wished, beyond which there are never more', () => {
    const search = new LineSearch(level(), 0, 100)
    search.add(curve(10, 50, 10, 60, 10, 70, 10, 80, 10))
    const proposed = search.propose(2)!
    expect(proposed.alerts).toBe(2)
    expect(proposed.at).toBeGreaterThanOrEqual(60)
    expect(proposed.at).toBeLessThan(60.5)
    expect(search.propose(0)!.at).toBeGreaterThanOrEqual(80)
  })
  test('a line that is moved keeps the distance of its way back, and the other severities', () => {
    const rule = level({
      lines: [
        { severity: 'warning', at: 27, back: 26 },
        { severity: 'critical', at: 32, back: null },
      ],
    })
    expect(moveLine(rule, 'warning', 30).lines).toEqual([
      { severity: 'critical', at: 32, back: null },
      { severity: 'warning', at: 30, back: 29 },
    ])
  })
})

describe('what a rehearsal says', () => {
  const DAY = 86_400_000
  const told = {
    alerts: 1,
    critical: 0,
    firstMs: 0,
    fromMs: 0,
    toMs: 30 * DAY,
    series: 4,
    longestMs: 30 * DAY,
    medianMs: 30 * DAY,
    heldMs: 30 * DAY,
    subjects: [
      {
        seriesId: 1,
        gearId: 1,
        name: 'brume-2',
        alerts: 1,
        critical: 0,
        longestMs: 30 * DAY,
        heldMs: 30 * DAY,
      },
    ],
  }
  test('a line that is crossed all the time is no quiet one', () => {
    expect(plain(rehearsalSentence(told))).toBe(
      'It would have raised 1 alert, over 30 d of 4 series: about 0.2 a week. It lasts 30 d. Its line is crossed 25 % of the time. On brume-2 it holds without a break: told once, and open ever after. Move the line, or accept that one.',
    )
  })
  test('one that is crossed now and then says nothing of that', () => {
    const subjects = [{ ...told.subjects[0]!, heldMs: 600_000 }]
    expect(plain(rehearsalSentence({ ...told, subjects, longestMs: 600_000, heldMs: 600_000 }))).toBe(
      'It would have raised 1 alert, over 30 d of 4 series: about 0.2 a week. It lasts 10 min.',
    )
  })
})
