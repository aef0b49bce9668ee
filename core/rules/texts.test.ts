import { describe, expect, test } from 'vitest'
import { type CountRule, EVERYWHERE, lasting, ofLast } from './rule.ts'
import { countAsLevel, countReason, countTitle, isMemberBeyond } from './counts.ts'
import { judge } from './judge.ts'
import { textMatcher, TextWindow } from './texts.ts'

const plain = (text: string): string => text.replaceAll(/[\u00a0\u202f]/g, ' ')

describe('patterns', () => {
  test.each([
    ['link down', 'port 17: LINK DOWN', true],
    ['failed * root', 'sshd: Failed password for root from 192.0.2.7', true],
    ['root * failed', 'sshd: Failed password for root', false],
    ['*', '', true],
    ['a*a', 'a', false],
    ['(.*)+$', 'aaaa', false],
  ])('“%s” in “%s” is %s', (pattern, text, fits) => {
    expect(textMatcher(pattern)(text)).toBe(fits)
  })
  test('takes no longer than the text is, whatever the pattern', () => {
    const fits = textMatcher('a*'.repeat(100) + 'b')
    const startedMs = performance.now()
    expect(fits('a'.repeat(100_000))).toBe(false)
    expect(performance.now() - startedMs).toBeLessThan(20_000)
  })
})

test('lines are counted within their window, a repeated one for as often as it came', () => {
  const window = new TextWindow(60_000)
  window.add(0, 1)
  window.add(30_000, 5)
  expect(window.countAt(30_000)).toBe(6)
  expect(window.countAt(60_000), 'the first has gone').toBe(5)
  expect(window.countAt(90_000)).toBe(0)
})

describe('counts in a group', () => {
  const rule: CountRule = {
    kind: 'count',
    key: 'k',
    name: 'Warm aisles',
    why: '',
    scope: { gearKind: 'probe', partKind: null, where: EVERYWHERE },
    measure: 'hw.temperature',
    member: { kind: 'level', direction: 'above', at: 27 },
    least: [
      { severity: 'warning', count: 2 },
      { severity: 'critical', count: 4 },
    ],
    persistence: ofLast(2, 2),
  }
  const samples = (...counts: number[]) => counts.map((value, index) => ({ atMs: index * 5000, value }))
  test('at least two warns, at least four is critical, twice in a row', () => {
    const level = countAsLevel(rule)
    expect(judge(level, samples(1, 1))).toEqual({ kind: 'clear' })
    expect(judge(level, samples(1, 2))).toEqual({ kind: 'clear' })
    expect(judge(level, samples(2, 2))).toMatchObject({ severity: 'warning' })
    expect(judge(level, samples(4, 4))).toMatchObject({ severity: 'critical' })
    expect(judge(countAsLevel({ ...rule, persistence: lasting(5000) }), samples(4, 4))).toMatchObject({
      severity: 'critical',
    })
  })
  test('a member is beyond its line by level or by state', () => {
    expect(isMemberBeyond(rule, 27)).toBe(false)
    expect(isMemberBeyond(rule, 27.1)).toBe(true)
    expect(isMemberBeyond({ ...rule, member: { kind: 'state', states: [0, 2] } }, 2)).toBe(true)
  })
  test('says who, and who is not known', () => {
    const counted = { beyond: ['b01-front', 'b02-front'], known: 7, unknown: 1 }
    expect(plain(countTitle(rule, counted))).toBe('2 of 7: temperature above 27.0 °C')
    expect(countReason(rule, counted)).toBe(
      'Warm aisles: b01-front and b02-front; 1 not heard and not counted.',
    )
  })
})
