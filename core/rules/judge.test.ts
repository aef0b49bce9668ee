import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import {
  type BandRule,
  type ChangeRule,
  EVERYWHERE,
  lasting,
  type LevelRule,
  ofLast,
  type PairRule,
  type Persistence,
  type RateRule,
  type SeriesRule,
  type Severity,
  type StateRule,
} from './rule.ts'
import { judge, judgeFor, resume } from './judge.ts'

const MINUTE = 60_000
const named = { key: 'k', name: 'n', why: 'w', scope: { gearKind: null, partKind: null, where: EVERYWHERE } }
const cpu = { measure: 'system.cpu.utilization', with: null } as const
const level = (rest: Partial<LevelRule>): LevelRule => ({
  kind: 'level',
  ...named,
  of: cpu,
  direction: 'above',
  lines: [
    { severity: 'warning', at: 0.85, back: null },
    { severity: 'critical', at: 0.95, back: null },
  ],
  persistence: ofLast(4, 6),
  ...rest,
})
const warnAt = (at: number, back: number | null = null): LevelRule['lines'] => [
  { severity: 'warning', at, back },
]
const samples = (...values: number[]) => values.map((value, index) => ({ atMs: index * 10_000, value }))

/** What is raised after each reading. */
function course(rule: SeriesRule, readings: readonly { atMs: number; value: number; other?: number }[]) {
  const { begin, take } = judgeFor(rule)
  const standing = begin()
  return readings.map(({ atMs, value, other }) => {
    take(standing, atMs, value, other)
    return standing.severity
  })
}
const everyMinute = (...values: (number | null)[]) =>
  values.flatMap((value, minute) => (value === null ? [] : [{ atMs: minute * MINUTE, value }]))

describe('k of the last n', () => {
  test('4 of 6 raises on the fourth breach, and not at three of six', () => {
    expect(course(level({}), samples(0.9, 0.1, 0.9, 0.1, 0.9, 0.1, 0.9, 0.1, 0.9))).toEqual(
      Array.from({ length: 9 }, () => null),
    )
    expect(course(level({}), samples(0.9, 0.1, 0.9, 0.9, 0.9))).toEqual([null, null, null, null, 'warning'])
    expect(judge(level({}), samples(0.9, 0.1, 0.9, 0.9, 0.9))).toEqual({
      kind: 'holds',
      severity: 'warning',
      breaches: 4,
      of: 5,
      sinceMs: 0,
    })
  })
  test('a breach of the critical line counts for the one to warn at; critical needs its own', () => {
    expect(judge(level({}), samples(0.99, 0.9, 0.99, 0.9))).toMatchObject({ severity: 'warning' })
    expect(judge(level({}), samples(0.99, 0.99, 0.99, 0.99))).toMatchObject({ severity: 'critical' })
  })
  test('n in a row', () => {
    const rule = level({ persistence: ofLast(3, 3) })
    expect(course(rule, samples(0.9, 0.9, 0.1, 0.9, 0.9, 0.9)).at(-2)).toBeNull()
    expect(course(rule, samples(0.9, 0.9, 0.1, 0.9, 0.9, 0.9)).at(-1)).toBe('warning')
  })
  test('since is the oldest reading that counts', () => {
    const rule = level({ persistence: ofLast(3, 6) })
    expect(judge(rule, samples(0.1, 0.1, 0.9, 0.1, 0.9, 0.9))).toMatchObject({ sinceMs: 20_000 })
  })
  test('the line itself is not beyond it, above and below', () => {
    expect(judge(level({ persistence: ofLast(1, 1) }), samples(0.85))).toEqual({ kind: 'clear' })
    const below = level({ persistence: ofLast(1, 1), direction: 'below', lines: warnAt(10) })
    expect(judge(below, samples(10))).toEqual({ kind: 'clear' })
    expect(judge(below, samples(9.9))).toMatchObject({ severity: 'warning' })
  })
  test('without lines nothing is raised, and nothing of no readings', () => {
    expect(judge(level({ lines: [] }), samples(1, 1, 1, 1, 1, 1))).toEqual({ kind: 'clear' })
    expect(judge(level({}), [])).toEqual({ kind: 'clear' })
  })
  test('a reading that is not newer is passed over', () => {
    const readings = [0.9, 0.9, 0.9].map((value) => ({ atMs: 5, value }))
    expect(course(level({ persistence: ofLast(2, 2) }), readings).at(-1)).toBeNull()
  })
})

describe('a way back that differs from the way in', () => {
  test('85 in, 80 back: between them what holds goes on and what does not, does not', () => {
    const rule = level({ persistence: ofLast(1, 1), lines: warnAt(0.85, 0.8) })
    expect(course(rule, samples(0.83, 0.86, 0.83, 0.81, 0.8, 0.83))).toEqual([
      null,
      'warning',
      'warning',
      'warning',
      null,
      null,
    ])
  })
  test('each severity has its own', () => {
    const rule = level({
      persistence: ofLast(1, 1),
      lines: [
        { severity: 'warning', at: 27, back: 26 },
        { severity: 'critical', at: 32, back: 30 },
      ],
    })
    expect(course(rule, samples(33, 31, 29, 26.5, 26))).toEqual([
      'critical',
      'critical',
      'warning',
      'warning',
      null,
    ])
  })
})

describe('for a duration', () => {
  const twelve = level({ persistence: lasting(12 * MINUTE, 3 * MINUTE), lines: warnAt(0.85) })
  test('twelve minutes above, not eleven', () => {
    const above = Array.from({ length: 14 }, () => 0.9)
    expect(course(twelve, everyMinute(...above)).indexOf('warning')).toBe(12)
  })
  test('with a short gap in the middle it goes on', () => {
    const values = Array.from({ length: 14 }, (_, minute) => (minute === 5 || minute === 6 ? null : 0.9))
    const seen = course(twelve, everyMinute(...values))
    expect(seen.filter((each) => each === 'warning')).toHaveLength(2)
    expect(judge(twelve, everyMinute(...values))).toMatchObject({ sinceMs: 0 })
  })
  test('over a long gap it begins anew', () => {
    const values = Array.from({ length: 14 }, (_, minute) => (minute >= 5 && minute <= 9 ? null : 0.9))
    expect(course(twelve, everyMinute(...values)).includes('warning')).toBe(false)
  })
  test('one reading below begins anew; one that is back beyond the way back ends it', () => {
    const rule = level({ persistence: lasting(3 * MINUTE), lines: warnAt(0.85, 0.8) })
    expect(course(rule, everyMinute(0.9, 0.9, 0.7, 0.9, 0.9, 0.9, 0.9, 0.82, 0.79))).toEqual([
      null,
      null,
      null,
      null,
      null,
      null,
      'warning',
      'warning',
      null,
    ])
  })
  test('what holds goes on over a gap', () => {
    const rule = level({ persistence: lasting(2 * MINUTE, MINUTE), lines: warnAt(0.85) })
    const readings = [0, 1, 2, 60].map((minute) => ({ atMs: minute * MINUTE, value: 0.9 }))
    expect(course(rule, readings)).toEqual([null, null, 'warning', 'warning'])
  })
})

describe('states', () => {
  const door: StateRule = {
    kind: 'state',
    ...named,
    of: { measure: 'hw.door', with: null },
    states: { 1: 'warning' },
    otherwise: null,
    after: null,
    persistence: lasting(10 * MINUTE),
  }
  test('held for longer than its limit', () => {
    expect(course(door, everyMinute(0, 1, 1, 1, 1, 1, 0)).includes('warning')).toBe(false)
    const open = everyMinute(0, ...Array.from({ length: 12 }, () => 1), 0)
    expect(course(door, open).indexOf('warning')).toBe(11)
    expect(course(door, open).at(-1)).toBeNull()
  })
  test('only after another: a port that never had a link has lost none', () => {
    const link: StateRule = {
      ...door,
      of: { measure: 'hw.network.up', with: null },
      states: { 0: 'warning' },
      after: 1,
      persistence: ofLast(2, 2),
    }
    expect(course(link, samples(0, 0, 0))).toEqual([null, null, null])
    expect(course(link, samples(0, 0, 1, 0, 0, 1))).toEqual([null, null, null, null, 'warning', null])
  })
  test('anything but', () => {
    const notMains: StateRule = {
      ...door,
      of: { measure: 'ups.output.source', with: null },
      states: { 5: 'critical' },
      otherwise: { severity: 'warning', well: [3] },
      persistence: ofLast(1, 1),
    }
    expect(course(notMains, samples(3, 5, 4, 99, 3))).toEqual([null, 'critical', 'warning', 'warning', null])
  })
  test('changed: held for a while, and then over', () => {
    const change: ChangeRule = {
      kind: 'change',
      ...named,
      of: { measure: 'hw.power.state', with: null },
      severity: 'warning',
      holdMs: 2 * MINUTE,
    }
    expect(course(change, everyMinute(1, 1, 0, 0, 0, 0))).toEqual([
      null,
      null,
      'warning',
      'warning',
      null,
      null,
    ])
  })
})

describe('other comparisons', () => {
  test('outside of a band, both ways', () => {
    const band: BandRule = {
      kind: 'band',
      ...named,
      of: { measure: 'hw.voltage', with: null },
      bands: [
        { severity: 'warning', low: 207, high: 253, margin: 2 },
        { severity: 'critical', low: 184, high: 264, margin: 2 },
      ],
      persistence: ofLast(1, 1),
    }
    expect(course(band, samples(230, 254, 252, 250, 206, 180, 185, 187, 230))).toEqual([
      null,
      'warning',
      'warning',
      null,
      'warning',
      'critical',
      'critical',
      'warning',
      null,
    ])
  })
  test('much out while little comes in', () => {
    const pair: PairRule = {
      kind: 'pair',
      ...named,
      first: { measure: 'hw.network.io.transmit', direction: 'above', at: 20e6, back: null },
      second: { measure: 'hw.network.io.receive', direction: 'below', at: 0.5e6, back: null },
      severity: 'critical',
      persistence: ofLast(2, 2),
    }
    const at = (...pairs: [number, number][]) =>
      pairs.map(([value, other], index) => ({ atMs: index * 1000, value, other }))
    expect(course(pair, at([30e6, 9e6], [30e6, 9e6], [30e6, 0.1e6], [30e6, 0.1e6], [1e6, 0.1e6]))).toEqual([
      null,
      null,
      null,
      'critical',
      null,
    ])
    expect(course(pair, at([30e6, NaN], [30e6, NaN])), 'one half alone says nothing').toEqual([null, null])
  })
  test('difference and ratio of two measures', () => {
    const of = { measure: 'hw.temperature', with: { how: 'difference', measure: 'hw.humidity' } } as const
    const warm = level({ of, persistence: ofLast(1, 1), lines: warnAt(10) })
    const one = (value: number, other: number) => [{ atMs: 0, value, other }]
    expect(course(warm, one(30, 19.5))).toEqual(['warning'])
    expect(course(warm, one(30, 20))).toEqual([null])
    const ratio = level({
      of: { ...of, with: { ...of.with, how: 'ratio' } },
      persistence: ofLast(1, 1),
      lines: warnAt(2),
    })
    expect(course(ratio, one(10, 4))).toEqual(['warning'])
    expect(course(ratio, one(10, 0)), 'by nothing').toEqual([null])
  })
  test('rises by five within ten minutes', () => {
    const rate: RateRule = {
      kind: 'rate',
      ...named,
      of: { measure: 'hw.temperature', with: null },
      direction: 'rising',
      withinMs: 10 * MINUTE,
      lines: warnAt(5),
      persistence: ofLast(1, 1),
    }
    const slope = (perMinute: number) =>
      everyMinute(...Array.from({ length: 21 }, (_, minute) => 20 + perMinute * minute))
    expect(course(rate, slope(0.4)).includes('warning')).toBe(false)
    expect(course(rate, slope(0.6)).indexOf('warning'), 'once half of the span is known').toBe(5)
    expect(course(rate, slope(-2)).includes('warning')).toBe(false)
    expect(course({ ...rate, direction: 'falling' }, slope(-2)).includes('warning')).toBe(true)
    expect(
      course(rate, [...slope(0), { atMs: 3 * 60 * MINUTE, value: 40 }]).at(-1),
      'over a long gap',
    ).toBeNull()
  })
})

/** The same by looking at all readings again each time, with the way back for a way in. */
function slowly(rule: LevelRule, values: readonly number[]): (Severity | null)[] {
  const { k, n } = rule.persistence as Extract<Persistence, { kind: 'count' }>
  let now: Severity | null = null
  return values.map((_, index) => {
    const window = values.slice(Math.max(0, index + 1 - n), index + 1)
    const count = (severity: Severity): number => {
      const isRaised = now === 'critical' || now === severity
      const lines = rule.lines.filter((line) => severity === 'warning' || line.severity === 'critical')
      return window.filter((value) =>
        lines.some((line) => value > (isRaised ? (line.back ?? line.at) : line.at)),
      ).length
    }
    now = count('critical') >= k ? 'critical' : count('warning') >= k ? 'warning' : null
    return now
  })
}

describe('properties', () => {
  const values = fc.array(fc.integer({ min: 0, max: 10 }), { maxLength: 60 })
  const rules = fc
    .record({ n: fc.integer({ min: 1, max: 30 }), share: fc.double({ min: 0, max: 1, noNaN: true }) })
    .map(({ n, share }) =>
      level({
        persistence: ofLast(Math.max(1, Math.round(share * n)), n),
        lines: [
          { severity: 'warning', at: 5, back: 4 },
          { severity: 'critical', at: 8, back: 6 },
        ],
      }),
    )
  test('k of n, with a way back, reading by reading is what all readings at once come to', () => {
    fc.assert(
      fc.property(rules, values, (rule, given) => {
        expect(course(rule, samples(...given))).toEqual(slowly(rule, given))
      }),
    )
  })
  test('a restart in between changes nothing, when the last n readings are at hand', () => {
    fc.assert(
      fc.property(rules, values, fc.nat(), (rule, given, at) => {
        const readings = samples(...given)
        const cut = given.length === 0 ? 0 : at % given.length
        const whole = course(rule, readings)
        const severity = cut === 0 ? null : whole[cut - 1]!
        const ready = judgeFor(rule)
        const { n } = rule.persistence as Extract<Persistence, { kind: 'count' }>
        const before = readings.slice(Math.max(0, cut - n), cut)
        const standing = severity === null ? ready.begin() : resume(ready, { severity, sinceMs: 0 }, before)
        if (severity === null) for (const { atMs, value } of before) ready.take(standing, atMs, value)
        // A rule that is not raised starts with less than n readings: what it then finds may only come later.
        const after = readings.slice(cut).map(({ atMs, value }) => {
          ready.take(standing, atMs, value)
          return standing.severity
        })
        expect(after).toEqual(whole.slice(cut))
      }),
    )
  })
  test('a value further beyond never makes it milder', () => {
    const rank = { clear: 0, warning: 1, critical: 2 }
    const of = (given: readonly number[]) => {
      const verdict = judge(level({ persistence: ofLast(3, 5) }), samples(...given))
      return rank[verdict.kind === 'clear' ? 'clear' : verdict.severity]
    }
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 5, maxLength: 5 }),
        fc.nat(4),
        (given, index) => {
          expect(of(given.with(index, 1))).toBeGreaterThanOrEqual(of(given))
        },
      ),
    )
  })
})
