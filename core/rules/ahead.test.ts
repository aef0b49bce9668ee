import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { AHEAD } from './defaults/ahead.ts'
import { FINITE_MEASURES } from '../forecast/index.ts'
import { aheadReason, aheadTitle, hasLevel, judgeAhead, type Outlook } from './ahead.ts'
import { DEFAULT_RULES } from './defaults/index.ts'
import { fieldsOfRule, ruleFromFields } from './fields/index.ts'
import { ruleWords } from './words.ts'

const DAY_MS = 86_400_000
const NOW = Date.UTC(2026, 10, 29)
const rule = {
  lines: [
    { severity: 'warning', days: 30 },
    { severity: 'critical', days: 7 },
  ],
} as const
const inDays = (days: number): Outlook => ({
  verdict: 'crosses',
  runOutMs: NOW + days * DAY_MS,
  orderedForMs: null,
  hasLevelRule: true,
})
const severityAt = (days: number, held: 'warning' | 'critical' | null = null) =>
  judgeAhead(rule, inDays(days), { nowMs: NOW, held }).severity

test('a rule on its level tells of a line in its own direction alone, and where it is on', () => {
  const kept = DEFAULT_RULES.map((each, id) => ({ id, rule: each, isDefault: true, isOn: true }))
  const subject = {
    measure: 'ups.battery.minutes_left' as const,
    gearKind: 'ups' as const,
    partKind: null,
    gearId: 1,
    partId: null,
    tags: [],
    roomId: null,
    rackId: null,
    cluster: null,
    groupIds: [],
  }
  expect(hasLevel(kept, subject, 'down')).toBe(true)
  expect(hasLevel(kept, subject, 'up')).toBe(false)
  expect(
    hasLevel(
      kept.map((each) => ({ ...each, isOn: false })),
      subject,
      'down',
    ),
  ).toBe(false)
  expect(hasLevel(kept, { ...subject, measure: 'ups.battery.age' }, 'up')).toBe(false)
})

describe('a rule on days left', () => {
  test.each([
    [31, null],
    [30, null],
    [29.9, 'warning'],
    [7, 'warning'],
    [6.9, 'critical'],
    [-3, 'critical'],
  ])('with %s days left it says %s', (days, severity) => {
    expect(severityAt(days)).toBe(severity)
  })
  test('a date that moves a little does not make it come and go: 30 days stay up to 39.5', () => {
    expect(severityAt(39, 'warning')).toBe('warning')
    expect(severityAt(39.5, 'warning')).toBeNull()
    expect(severityAt(10.7, 'critical')).toBe('critical')
    expect(severityAt(10.8, 'critical')).toBe('warning')
  })
  test('what is over its line is told by the rule of that line; what is too early or out of sight by none', () => {
    const because = (verdict: Outlook['verdict']) =>
      judgeAhead(
        rule,
        { verdict, runOutMs: null, orderedForMs: null, hasLevelRule: true },
        { nowMs: NOW, held: 'warning' },
      )
    expect(because('over')).toMatchObject({
      severity: null,
      because: expect.stringContaining('rule of that line'),
    })
    const alone: Outlook = { verdict: 'over', runOutMs: null, orderedForMs: null, hasLevelRule: false }
    expect(judgeAhead(rule, alone, { nowMs: NOW, held: null })).toMatchObject({
      severity: 'critical',
      daysLeft: 0,
    })
    expect(because('not-in-sight')).toMatchObject({
      severity: null,
      because: 'No run-out is in sight any more.',
    })
    expect(because('too-little').severity).toBeNull()
    expect(judgeAhead(rule, null, { nowMs: NOW, held: 'warning' }).because).toBe(
      'It is not forecast any more.',
    )
  })
  test('an order is waited for until its day is past', () => {
    const ordered = { ...inDays(3), orderedForMs: NOW }
    const at = (nowMs: number) => judgeAhead(rule, ordered, { nowMs, held: null }).severity
    expect(at(NOW)).toBeNull()
    expect(at(NOW + DAY_MS - 1)).toBeNull()
    expect(at(NOW + DAY_MS)).toBe('critical')
  })
  test('fewer days are never milder, whatever was held before', () => {
    const rank = { critical: 2, warning: 1, none: 0 }
    fc.assert(
      fc.property(
        fc.double({ min: -10, max: 400, noNaN: true }),
        fc.double({ min: 0, max: 100, noNaN: true }),
        fc.constantFrom(null, 'warning' as const, 'critical' as const),
        (days, less, held) => {
          const [late, soon] = [severityAt(days, held), severityAt(days - less, held)]
          expect(rank[soon ?? 'none']).toBeGreaterThanOrEqual(rank[late ?? 'none'])
        },
      ),
    )
  })
})

test('words say what runs out, when, and how sure that is', () => {
  expect(aheadTitle({ name: 'Store gannet-03', kind: 'space', daysLeft: 10.2 })).toBe(
    'Store gannet-03 runs out in 10 days',
  )
  expect(aheadTitle({ name: 'd04 in skua-1', kind: 'wear', daysLeft: 0.4 })).toBe(
    'd04 in skua-1 wears out within a day',
  )
  const told = {
    line: 'critical 85 %',
    date: '9 Dec 2026',
    early: '7 Dec 2026',
    late: null,
    sentence: 'Grows.',
  }
  expect(aheadReason({ measure: 'system.filesystem.utilization' }, told)).toBe(
    'Space used reaches critical 85 % on 9 Dec 2026, between 7 Dec 2026 and beyond two years in 8 of 10 cases. Grows.',
  )
})

test('each shipped rule is on something that is forecast, and comes back from a form as it was', () => {
  expect(AHEAD.length).toBeGreaterThan(5)
  for (const shipped of AHEAD) {
    if (shipped.kind !== 'ahead') throw new Error('another kind')
    expect(FINITE_MEASURES).toContain(shipped.measure)
    const filled = ruleFromFields(fieldsOfRule(shipped))
    expect(filled).toMatchObject({
      kind: 'rule',
      rule: { kind: 'ahead', lines: shipped.lines, measure: shipped.measure },
    })
    expect(ruleWords(shipped)).toMatch(/^warning with less than \d+ days left/)
  }
})
