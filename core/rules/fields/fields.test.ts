import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { parseAmount, parseSpan, UNITS, type Unit, writeAmount, writeSpan } from '../../units/index.ts'
import { DEFAULT_RULES } from '../defaults/index.ts'
import { fieldsOfRule, ruleFromFields } from '../index.ts'

describe('a rule in a form', () => {
  test('every shipped rule comes out as it went in', () => {
    for (const rule of DEFAULT_RULES)
      expect(ruleFromFields(fieldsOfRule(rule)), rule.key).toEqual({
        kind: 'rule',
        rule: { ...rule, key: 'new' },
      })
  })
  const level = fieldsOfRule(DEFAULT_RULES.find(({ key }) => key === 'air-warm')!)
  test('a line in another unit is the same line', () => {
    const filled = ruleFromFields({ ...level, warning: '80.6 °F', warningBack: '79.7 °F' })
    expect(filled).toMatchObject({
      kind: 'rule',
      rule: { lines: [{ severity: 'warning', at: 27, back: 26.5 }, { severity: 'critical' }] },
    })
  })
  test('what is wrong is said at its field', () => {
    expect(
      ruleFromFields({ ...level, warning: 'hot', k: 'x', name: '', whereKind: 'tag', whereValue: '' }),
    ).toEqual({
      kind: 'problems',
      problems: {
        warning: '“hot” is no number. Write a number and a unit, as in “30 °C”.',
        k: 'The count is a whole number above 0.',
        name: 'Give the rule a name.',
        whereValue: 'Choose which.',
      },
    })
    expect(ruleFromFields({})).toMatchObject({
      kind: 'problems',
      problems: { measure: 'Choose what is measured.' },
    })
  })
})

describe('amounts', () => {
  const units = fc.constantFrom(...(Object.keys(UNITS) as Unit[]))
  test('what is written is read as the same number', () => {
    fc.assert(
      fc.property(
        units,
        fc.integer({ min: -1_000_000, max: 1_000_000 }),
        fc.integer({ min: 0, max: 4 }),
        (unit, mantissa, shift) => {
          const value = Number((mantissa / 10 ** shift).toPrecision(12))
          const text = writeAmount(value, unit)
          expect(parseAmount(text, unit), text).toBeCloseTo(value, 9)
        },
      ),
    )
  })
  test.each([
    [0.78, 'ratio', '78 %'],
    [20e6, 'bytePerSecond', '160 Mbit/s'],
    [2 * 1024 ** 4, 'byte', '2 TiB'],
    [27.5, 'celsius', '27.5 °C'],
    [-95, 'decibelMilliwatt', '-95 dBm'],
    [3, 'count', '3'],
  ] as const)('%d of %s is written “%s”', (value, unit, text) => {
    expect(writeAmount(value, unit)).toBe(text)
  })
  test('spans', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 10_000_000 }), (seconds) => {
        expect(parseSpan(writeSpan(seconds * 1000))).toBe(seconds * 1000)
      }),
    )
  })
})
