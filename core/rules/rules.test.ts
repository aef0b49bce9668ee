import { describe, expect, test } from 'vitest'
import { alertReason, alertTitle, listNames, type AlertFacts } from './sentences.ts'
import { DEFAULT_RULES } from './defaults/index.ts'
import { isSeriesRule, type SeriesRule, worst } from './rule.ts'

const shipped = (key: string): SeriesRule => {
  const rule = DEFAULT_RULES.find((each) => each.key === key)
  if (rule === undefined || !isSeriesRule(rule)) throw new Error(key)
  return rule
}

const plain = (text: string): string => text.replaceAll(/[\u00a0\u202f]/g, ' ')
describe('sentences', () => {
  const told = (rest: Partial<AlertFacts>): AlertFacts => ({
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
      title: 'Supply 2 in petrel-07 has failed',
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
    const rule = shipped('fan-slow')
    const verdict = { kind: 'holds', severity: 'critical', breaches: 2, of: 3, sinceMs: 0 } as const
    expect(plain(alertReason(rule, told({}), verdict))).toBe(
      '0 rpm, below the line of 1 800 rpm, in 2 of the last 3 readings.',
    )
  })
  test('the reason of an outage names the new status', () => {
    const rule = shipped('ups-source')
    const given = told({
      gearKind: 'ups',
      partName: null,
      measure: 'ups.output.source',
      value: 5,
      companions: { 'hw.battery.charge': 0.98, 'ups.output.load': 0.62 },
    })
    const verdict = { kind: 'holds', severity: 'critical', breaches: 1, of: 1, sinceMs: 0 } as const
    expect(plain(alertReason(rule, given, verdict))).toBe('It runs on battery; charge 98 %; load 62 %.')
  })
  test.each([
    { names: [], text: '' },
    { names: ['a'], text: 'a' },
    { names: ['a', 'b'], text: 'a and b' },
    { names: ['a', 'b', 'c', 'd', 'e'], text: 'a, b, c and 2 more' },
  ])('$names read “$text”', ({ names, text }) => {
    expect(listNames(names)).toBe(text)
  })
  test('the worst of several', () => {
    expect(worst(['warning', 'critical'])).toBe('critical')
    expect(worst([])).toBeNull()
  })
})
