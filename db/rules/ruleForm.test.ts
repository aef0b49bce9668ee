import { describe, expect, test } from 'vitest'
import { DEFAULT_RULES, type LevelRule } from '#core/rules'
import { ruleForm } from './ruleForm.ts'

const level = DEFAULT_RULES.find((rule): rule is LevelRule => rule.key === 'store-full')!
const saidOf = (rule: unknown): string =>
  ruleForm
    .safeParse(rule)
    .error?.issues.map(({ message }) => message)
    .join('; ') ?? ''

describe('the form of a rule', () => {
  test('every shipped rule has it, and comes out of it as it went in', () => {
    for (const rule of DEFAULT_RULES) expect(ruleForm.parse(JSON.parse(JSON.stringify(rule)))).toEqual(rule)
  })
  test.each([
    [{ persistence: { kind: 'count', k: 7, n: 6 } }, '7 of the last 6 readings cannot be: ask for at most 6'],
    [{ persistence: { kind: 'count', k: 4, n: 31 } }, 'Too big'],
    [{ of: { measure: 'hw.weight', with: null } }, '“hw.weight” is no measure'],
    [{ name: '' }, 'Give the rule a name'],
    [
      {
        lines: [
          { severity: 'warning', at: 0.9, back: null },
          { severity: 'critical', at: 0.8, back: null },
        ],
      },
      'The critical line must lie above the one to warn at',
    ],
    [
      { lines: [{ severity: 'warning', at: 0.8, back: 0.9 }] },
      'The way back of warning must not lie above its line',
    ],
    [{ lines: [{ severity: 'warning', at: NaN, back: null }] }, 'Invalid input'],
    [
      {
        lines: [
          { severity: 'warning', at: 0.8, back: null },
          { severity: 'warning', at: 0.9, back: null },
        ],
      },
      'One line a severity',
    ],
  ])('what cannot be meant is said: %j', (change, said) => {
    expect(saidOf({ ...level, ...change })).toContain(said)
  })
  test('states belong to their measure', () => {
    const rule = DEFAULT_RULES.find(({ key }) => key === 'door-open')!
    expect(saidOf({ ...rule, states: { 7: 'warning' } })).toBe('Door has no state 7')
  })
})
