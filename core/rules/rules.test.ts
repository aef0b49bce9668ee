import { describe, expect, test } from 'vitest'
import fc from 'fast-check'
import {
  alertReason,
  alertTitle,
  DEFAULT_RULES,
  judge,
  type LevelRule,
  lineInForce,
  listNames,
  type StateRule,
  type Told,
  worst,
} from './index.ts'

const plain = (text: string): string => text.replaceAll(/[\u00a0\u202f]/g, ' ')
const samples = (...values: number[]) => values.map((value, index) => ({ atMs: index * 10_000, value }))
const level = (rest: Partial<LevelRule>): LevelRule => ({
  kind: 'level',
  key: 'k',
  name: 'n',
  why: 'w',
  measure: 'system.cpu.utilization',
  gearKind: null,
  partKind: null,
  direction: 'above',
  warning: 0.85,
  critical: 0.95,
  k: 4,
  n: 6,
  ...rest,
})

describe('level, k of n', () => {
  test('4 of 6 holds on the fourth breach and not on the third', () => {
    const values = [0.9, 0.1, 0.9, 0.9]
    expect(judge(level({}), samples(...values))).toEqual({ kind: 'clear' })
    expect(judge(level({}), samples(...values, 0.9))).toEqual({
      kind: 'holds',
      severity: 'warning',
      breaches: 4,
      of: 5,
      sinceMs: 0,
    })
  })
  test('a breach of the critical line also counts as one of the warning line', () => {
    expect(judge(level({}), samples(0.99, 0.9, 0.99, 0.9))).toMatchObject({ severity: 'warning' })
    expect(judge(level({}), samples(0.99, 0.99, 0.99, 0.99))).toMatchObject({ severity: 'critical' })
  })
  test('only the last n readings count', () => {
    expect(judge(level({ k: 2, n: 2 }), samples(0.9, 0.9, 0.9, 0.1))).toEqual({ kind: 'clear' })
  })
  test('a reading on the line is not beyond it', () => {
    expect(judge(level({ k: 1, n: 1 }), samples(0.85))).toEqual({ kind: 'clear' })
    expect(judge(level({ k: 1, n: 1, direction: 'below', warning: 10, critical: 5 }), samples(10))).toEqual({
      kind: 'clear',
    })
  })
  test('a rule with a critical line only never warns', () => {
    const rule = level({ k: 1, n: 1, warning: null, critical: 0.95 })
    expect(judge(rule, samples(0.97))).toMatchObject({ severity: 'critical' })
    expect(judge(rule, samples(0.9))).toEqual({ kind: 'clear' })
  })
  test('no readings hold nothing', () => {
    expect(judge(level({}), [])).toEqual({ kind: 'clear' })
  })
  test('more readings beyond the line never make it milder', () => {
    const rank = { clear: 0, warning: 1, critical: 2 }
    const severity = (values: number[]): number => {
      const verdict = judge(level({ k: 3, n: 5 }), samples(...values))
      return rank[verdict.kind === 'clear' ? 'clear' : verdict.severity]
    }
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 5, maxLength: 5 }),
        fc.nat(4),
        (values, index) => {
          const raised = values.with(index, 1)
          expect(severity(raised)).toBeGreaterThanOrEqual(severity(values))
        },
      ),
    )
  })
})

describe('state', () => {
  const rule = DEFAULT_RULES.find((each): each is StateRule => each.key === 'ups-source')!
  test.each([
    { value: 3, expected: 'clear' },
    { value: 5, expected: 'critical' },
    { value: 4, expected: 'warning' },
    { value: 99, expected: 'clear' },
  ])('output source $value is $expected', ({ value, expected }) => {
    const verdict = judge(rule, samples(value))
    expect(verdict.kind === 'clear' ? 'clear' : verdict.severity).toBe(expected)
  })
})

describe('the line in force', () => {
  test('the more specific rule wins, whatever the order', () => {
    const general = level({ key: 'general' })
    const ofServers = level({ key: 'servers', gearKind: 'server' })
    const subject = { measure: 'system.cpu.utilization', gearKind: 'server', partKind: null } as const
    expect(lineInForce([general, ofServers], subject)?.key).toBe('servers')
    expect(lineInForce([ofServers, general], subject)?.key).toBe('servers')
    expect(lineInForce([ofServers, general], { ...subject, gearKind: 'machine' })?.key).toBe('general')
  })
  test('temperatures of processors and of the air have lines of their own', () => {
    const at = (partKind: 'processor' | 'sensor' | 'battery') =>
      lineInForce(DEFAULT_RULES, { measure: 'hw.temperature', gearKind: 'server', partKind })?.key ?? null
    expect([at('processor'), at('sensor'), at('battery')]).toEqual(['processor-hot', 'inlet-warm', null])
  })
  test('shipped rules have keys of their own, lines in order, and windows that can fill', () => {
    expect(new Set(DEFAULT_RULES.map((rule) => rule.key)).size).toBe(DEFAULT_RULES.length)
    for (const rule of DEFAULT_RULES) {
      if (rule.kind === 'noData') continue
      expect(rule.k).toBeLessThanOrEqual(rule.n)
      if (rule.kind === 'level' && rule.warning !== null && rule.critical !== null) {
        expect(Math.sign(rule.critical - rule.warning)).toBe(rule.direction === 'above' ? 1 : -1)
      }
    }
  })
})

describe('sentences', () => {
  const told = (rest: Partial<Told>): Told => ({
    gearName: 'petrel-07',
    gearKind: 'server',
    partName: 'Fan 3',
    measure: 'hw.fan.speed',
    value: 0,
    ...rest,
  })
  test.each([
    { told: told({}), title: 'Fan 3 stopped in petrel-07' },
    { told: told({ value: 1500 }), title: 'Fan 3 at 1 500 rpm in petrel-07' },
    {
      told: told({ measure: 'hw.status', value: 2, companions: { 'hw.fan.speed': 0 } }),
      title: 'Fan 3 stopped in petrel-07',
    },
    {
      told: told({ partName: 'Supply 2', measure: 'hw.status', value: 2 }),
      title: 'Supply 2 in petrel-07 reports itself failed',
    },
    {
      told: told({
        gearName: 'harbour-A',
        gearKind: 'ups',
        partName: null,
        measure: 'ups.output.source',
        value: 5,
        companions: { 'ups.battery.minutes_left': 31 },
      }),
      title: 'UPS harbour-A on battery, 31 min left',
    },
    {
      told: told({
        gearName: 'gannet-02',
        gearKind: 'store',
        partName: null,
        measure: 'system.filesystem.utilization',
        value: 0.783,
      }),
      title: 'Store gannet-02 at 78.3 %',
    },
    {
      told: told({
        gearName: 'skerry-01',
        gearKind: 'host',
        partName: '/var',
        measure: 'system.filesystem.utilization',
        value: 0.95,
      }),
      title: '/var in skerry-01 at 95.0 %',
    },
    {
      told: told({
        gearName: 'brume-1',
        gearKind: 'cooling',
        partName: 'Rope',
        measure: 'hw.leak',
        value: 1,
      }),
      title: 'Rope in brume-1 reports a small leak',
    },
    {
      told: told({
        gearName: '127.0.0.1:22',
        gearKind: 'service',
        partName: null,
        measure: 'net.reachable',
        value: 0,
      }),
      title: '127.0.0.1:22 is not reached',
    },
    {
      told: told({
        gearName: 'pier.example',
        gearKind: 'service',
        partName: null,
        measure: 'net.certificate.days_left',
        value: 4,
      }),
      title: 'The certificate of pier.example runs out in 4 days',
    },
  ])('$title', ({ told: given, title }) => {
    expect(plain(alertTitle(given))).toBe(title)
  })
  test('a reason has the value, the line and the count', () => {
    const rule = DEFAULT_RULES.find((each) => each.key === 'fan-slow')!
    const verdict = { kind: 'holds', severity: 'critical', breaches: 2, of: 3, sinceMs: 0 } as const
    expect(plain(alertReason(rule, told({}), verdict))).toBe(
      '0 rpm, below the line of 1 800 rpm, in 2 of the last 3 readings.',
    )
  })
  test('the reason of an outage names the new status', () => {
    const rule = DEFAULT_RULES.find((each) => each.key === 'ups-source')!
    const given = told({
      gearKind: 'ups',
      partName: null,
      measure: 'ups.output.source',
      value: 5,
      companions: { 'hw.battery.charge': 0.98, 'ups.output.load': 0.62 },
    })
    const verdict = { kind: 'holds', severity: 'critical', breaches: 1, of: 1, sinceMs: 0 } as const
    expect(plain(alertReason(rule, given, verdict))).toBe('Output source is battery; charge 98 %; load 62 %.')
  })
  test.each([
    { names: [], text: '' },
    { names: ['a'], text: 'a' },
    { names: ['a', 'b'], text: 'a and b' },
    { names: ['a', 'b', 'c', 'd', 'e'], text: 'a, b, c and 2 more' },
  ])('$names read «$text»', ({ names, text }) => {
    expect(listNames(names)).toBe(text)
  })
  test('the worst of several', () => {
    expect(worst(['warning', 'critical'])).toBe('critical')
    expect(worst([])).toBeNull()
  })
})
