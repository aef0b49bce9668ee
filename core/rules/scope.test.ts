import { describe, expect, test } from 'vitest'
import { GEAR_KINDS, measureOf } from '../catalogue/index.ts'
import { AmountError, parseAmount, parseSpan } from '../units/index.ts'
import { contestOf, type KeptRule, PRECEDENCE, rulesInForce, type Subject } from './scope.ts'
import { DEFAULT_RULES } from './defaults/index.ts'
import { type LevelRule, lineOf, measureOfRule, ofLast, type Rule, type Scope } from './rule.ts'
import { ruleWords } from './words.ts'

const plain = (text: string): string => text.replaceAll(/[\u00a0\u202f]/g, ' ')
const subject: Subject = {
  measure: 'system.cpu.utilization',
  gearKind: 'machine',
  partKind: null,
  gearId: 7,
  partId: null,
  tags: ['web'],
  roomId: 1,
  rackId: 3,
  cluster: 'north',
  groupIds: [5],
}
let nextId = 0
const kept = (scope: Partial<Scope>, rest: Partial<KeptRule> & { at?: number } = {}): KeptRule => ({
  id: (nextId += 1),
  isDefault: false,
  isOn: true,
  ...rest,
  rule: {
    kind: 'level',
    key: `rule-${nextId}`,
    name: 'n',
    why: 'w',
    scope: { gearKind: null, partKind: null, where: { kind: 'everywhere' }, ...scope },
    of: { measure: 'system.cpu.utilization', with: null },
    direction: 'above',
    lines: [{ severity: 'warning', at: rest.at ?? 0.8, back: null }],
    persistence: ofLast(4, 6),
  },
})
const inForce = (rules: readonly KeptRule[], of: Partial<Subject> = {}) =>
  rulesInForce(rules, { ...subject, ...of })

test('what is meant for servers is meant for hosts, and not the other way round', () => {
  const fan = { gearKind: 'host', partKind: 'fan', measure: 'hw.fan.speed' } as const
  const shipped = DEFAULT_RULES.map((rule, id): KeptRule => ({ id, rule, isDefault: true, isOn: true }))
  expect(inForce(shipped, fan).map((each) => each.kept.rule.key)).toContain('fan-slow')
  const forHosts = kept({ gearKind: 'host' })
  expect(inForce([forHosts], { gearKind: 'server' })).toEqual([])
  expect(inForce([forHosts], { gearKind: 'host' })).toHaveLength(1)
})

describe('where a sensor measures', () => {
  const sensor = { measure: 'hw.temperature', gearKind: 'server', partKind: 'sensor', partId: 9 } as const
  const temperature = (role: Subject['role']) =>
    DEFAULT_RULES.map((rule, id): KeptRule => ({ id, rule, isDefault: true, isOn: true })).filter(
      (each) => rulesInForce([each], { ...subject, ...sensor, role: role ?? null }).length > 0,
    )
  const winners = (role: Subject['role']): string[] =>
    rulesInForce(temperature(role), { ...subject, ...sensor, role: role ?? null }).map(
      (each) => each.kept.rule.key,
    )

  test('air drawn in has the line of the envelope; what is blown out keeps that of the sensors', () => {
    expect(winners('intake').sort()).toEqual(['intake-cold', 'intake-warm'])
    expect(winners('exhaust')).toEqual(['inlet-warm'])
    expect(winners(null)).toEqual(['inlet-warm'])
  })
  test('the intakes of one rack may have a line of their own', () => {
    const own = kept({ role: 'intake', where: { kind: 'rack', id: 3 } })
    const rule = { ...own.rule, of: { measure: 'hw.temperature', with: null } } as LevelRule
    const won = rulesInForce([...temperature('intake'), { ...own, rule }], {
      ...subject,
      ...sensor,
      role: 'intake',
    })
    expect(won.map((each) => each.kept.rule.key)).toContain(rule.key)
    expect(won.map((each) => each.kept.rule.key)).not.toContain('intake-warm')
  })
})

describe('the line in force', () => {
  const everywhere = kept({}, { isDefault: true })
  const own = kept({ where: { kind: 'gear', id: 7 } }, { at: 0.95 })

  test('an own line for one machine beats the line for all, says so, and without it the general one is back', () => {
    const [won] = inForce([everywhere, own])
    expect(won?.kept).toBe(own)
    expect(won?.overrides).toEqual([everywhere])
    expect(inForce([everywhere, own], { gearId: 8 })[0]).toEqual({ kept: everywhere, overrides: [] })
    expect(inForce([everywhere])[0]?.kept, 'after deleting it').toBe(everywhere)
  })
  test('of what a gear tells of itself as a whole, too, a part is judged by rules that mean parts alone', () => {
    const core = { partKind: 'processor', partId: 12 } as const
    expect(inForce([everywhere], { ...core, hasWhole: true })).toEqual([])
    expect(inForce([everywhere], { ...core, hasWhole: false })).toHaveLength(1)
    expect(inForce([everywhere], { partKind: null, partId: null })).toHaveLength(1)
    for (const scope of [{ partKind: 'processor' }, { where: { kind: 'part', id: 12 } }] as Partial<Scope>[])
      expect(inForce([kept(scope)], { ...core, hasWhole: true })).toHaveLength(1)
  })
  test('a tag that is given later brings the rule', () => {
    const tagged = kept({ where: { kind: 'tag', tag: 'forecast' } })
    expect(inForce([everywhere, tagged])[0]?.kept).toBe(everywhere)
    expect(inForce([everywhere, tagged], { tags: ['web', 'forecast'] })[0]?.kept).toBe(tagged)
  })
  test('the narrower place wins over the wider one, in the stated order', () => {
    const places: Scope['where'][] = [
      { kind: 'everywhere' },
      { kind: 'tag', tag: 'web' },
      { kind: 'room', id: 1 },
      { kind: 'rack', id: 3 },
      { kind: 'cluster', name: 'north' },
      { kind: 'group', id: 5 },
      { kind: 'gear', id: 7 },
    ]
    const rules = places.map((where) => kept({ where }))
    expect(places.map(({ kind }) => kind)).toEqual(PRECEDENCE.slice(0, -1))
    for (let last = rules.length; last > 0; last -= 1)
      expect(inForce(rules.slice(0, last).reverse())[0]?.kept).toBe(rules[last - 1])
  })
  test('of one place: a kind of part, then a kind of gear, then own before shipped, then the first', () => {
    const server = { gearKind: 'server' } as const
    const sensor = { partKind: 'sensor' } as const
    const of = { gearKind: 'server', partKind: 'sensor' } as const
    const [plainOne, ofGear, ofPart] = [kept({}), kept(server), kept(sensor)]
    expect(inForce([plainOne, ofGear], of)[0]?.kept).toBe(ofGear)
    expect(inForce([plainOne, ofGear, ofPart], of)[0]?.kept).toBe(ofPart)
    const [first, second] = [kept({}), kept({})]
    expect(inForce([second, first, everywhere])[0]?.kept).toBe(first)
    expect(inForce([second, first, everywhere])[0]?.overrides).toEqual([second, everywhere])
  })
  test('what says something else is no rival; what is off is not there', () => {
    const idle = kept({})
    const below = { ...idle, rule: { ...(idle.rule as LevelRule), direction: 'below' } } as KeptRule
    expect(inForce([everywhere, below]).map((each) => each.kept)).toEqual([everywhere, below])
    expect(inForce([{ ...everywhere, isOn: false }])).toEqual([])
  })
})

describe('shipped rules', () => {
  test('there is one for every kind of gear, each with a reason, each key once', () => {
    for (const kind of Object.keys(GEAR_KINDS))
      expect(
        DEFAULT_RULES.filter(({ scope }) => scope.gearKind === kind || scope.gearKind === null).length,
        kind,
      ).toBeGreaterThan(0)
    expect(new Set(DEFAULT_RULES.map(({ key }) => key)).size).toBe(DEFAULT_RULES.length)
    for (const rule of DEFAULT_RULES) expect(rule.why, rule.key).toMatch(/^\p{Lu}.{20,}\.$/u)
  })
  test('no two of them say the same of the same', () => {
    const claims = DEFAULT_RULES.map((rule) =>
      [measureOfRule(rule), contestOf(rule), rule.scope.gearKind, rule.scope.partKind].join(' '),
    )
    expect(new Set(claims).size).toBe(claims.length)
  })
  test('warning comes before critical, and the way back lies on the good side', () => {
    for (const rule of DEFAULT_RULES) {
      if ('persistence' in rule && rule.persistence.kind === 'count')
        expect(rule.persistence.k).toBeLessThanOrEqual(rule.persistence.n)
      if (rule.kind !== 'level') continue
      const sign = rule.direction === 'above' ? 1 : -1
      const [warning, critical] = [lineOf(rule, 'warning'), lineOf(rule, 'critical')]
      if (warning !== null && critical !== null)
        expect(sign * (critical.at - warning.at), rule.key).toBeGreaterThan(0)
      for (const line of rule.lines)
        expect(sign * (line.at - (line.back ?? line.at)), rule.key).toBeGreaterThanOrEqual(0)
    }
  })
  test('each reads as a sentence', () => {
    const words = Object.fromEntries(DEFAULT_RULES.map((rule: Rule) => [rule.key, plain(ruleWords(rule))]))
    expect(words).toMatchObject({
      'store-full': 'warning above 78.0 %, critical above 82.0 %, in 4 of the last 6 readings',
      'air-rising': 'critical rising by 5.0 K within 10 min, in 2 of the last 3 readings',
      'mains-voltage':
        'warning outside of 207.0 V to 253.0 V, critical outside of 184.0 V to 264.0 V, in 3 of the last 4 readings',
      'link-down': 'warning down after up, in 2 readings in a row',
      'door-open': 'warning open, for 10 min',
      'no-data': 'warning not heard for 3 intervals',
      'device-alarmed': 'warning a line like “*” within 15 min',
    })
    expect(words['sends-only']).toBe(
      'warning sent above 160 Mbit/s while received below 4.0 Mbit/s, for 10 min',
    )
  })
})

describe('amounts as people type them', () => {
  test('86 °F and 30 °C are the same line', () => {
    const { unit } = measureOf('hw.temperature')
    expect(parseAmount('86 °F', unit)).toBe(30)
    expect(parseAmount('30 °C', unit)).toBe(30)
    expect(parseAmount('30', unit)).toBe(30)
    expect(parseAmount('303.15 K', unit)).toBe(30)
    expect(parseAmount('9 °F', unit, { isDifference: true }), 'a difference').toBe(5)
  })
  test.each([
    ['78 %', 'ratio', 0.78],
    ['78', 'ratio', 0.78],
    ['0,5%', 'ratio', 0.005],
    ['2 TiB', 'byte', 2 * 1024 ** 4],
    ['20 MB/s', 'bytePerSecond', 20e6],
    ['1 Gbit/s', 'bytePerSecond', 125e6],
    ['1\u202f800 rpm', 'rpm', 1800],
    ['2 h', 'minute', 120],
    ['3 weeks', 'day', 21],
    ['2.5 kW', 'watt', 2500],
    ['−40 dBm', 'decibelMilliwatt', -40],
    ['0', 'count', 0],
  ] as const)('“%s” of a %s is %d', (text, unit, value) => {
    expect(parseAmount(text, unit)).toBeCloseTo(value, 9)
  })
  test('what is none is said', () => {
    expect(() => parseAmount('hot', 'celsius')).toThrow('“hot” is no number')
    expect(() => parseAmount('30 %', 'celsius')).toThrow('“%” is no unit for this: it is measured in °C')
    expect(() => parseAmount('', 'ratio')).toThrow(AmountError)
    expect(() => parseSpan('soon')).toThrow('“soon” is no length of time')
  })
  test.each([
    ['12 min', 720_000],
    ['12', 720_000],
    ['90 s', 90_000],
    ['1.5 h', 5_400_000],
    ['2 days', 172_800_000],
  ])('“%s” is a span', (text, ms) => {
    expect(parseSpan(text)).toBe(ms)
  })
})
