import fc from 'fast-check'
import { afterEach, describe, expect, test } from 'vitest'
import {
  formatReading,
  isMeasureKey,
  isSane,
  type MeasureKey,
  measureKeys,
  measureOf,
  type OwnMeasureFields,
  ownMeasureFrom,
  resolutionOf,
  setOwnMeasures,
} from './index.ts'

const FLOW: OwnMeasureFields = {
  key: 'hw.pump.vibration',
  label: 'Vibration',
  unit: 'hertz',
  kind: 'gauge',
  group: 'Climate',
  decimals: '1',
  states: '',
  low: '0',
  high: '500,5',
}
const VALVE = {
  ...FLOW,
  key: 'hw.damper',
  label: 'Damper',
  kind: 'state',
  states: '0=closed, 1 = open; 2=stuck',
}
const read = (fields: Partial<OwnMeasureFields>, taken: readonly string[] = []) =>
  ownMeasureFrom({ ...FLOW, ...fields }, new Set(taken))
const problem = (fields: Partial<OwnMeasureFields>, field: keyof OwnMeasureFields, taken: string[] = []) => {
  const verdict = read(fields, taken)
  return verdict.kind === 'problems' ? verdict.problems[field] : undefined
}
afterEach(() => setOwnMeasures([]))

test('a gauge with its range, and a state with its words', () => {
  expect(read({})).toEqual({
    kind: 'measure',
    measure: {
      key: 'hw.pump.vibration',
      label: 'Vibration',
      unit: 'hertz',
      kind: 'gauge',
      decimals: 1,
      group: 'Climate',
      range: { low: 0, high: 500.5 },
    },
  })
  expect(read(VALVE)).toMatchObject({
    measure: { unit: 'state', decimals: 0, states: { 0: 'closed', 1: 'open', 2: 'stuck' } },
  })
})

describe('what is wrong stands at its field', () => {
  test.each([
    [
      { key: 'Flow' },
      'key',
      '“Flow” is no key: small letters, digits and underscores, with points between, as in hw.pump.flow.',
    ],
    [
      { key: 'flow' },
      'key',
      '“flow” is no key: small letters, digits and underscores, with points between, as in hw.pump.flow.',
    ],
    [{ key: 'hw.temperature' }, 'key', 'hw.temperature ships with the application, as Temperature.'],
    [{ label: ' ' }, 'label', 'Enter a name of at most 40 characters.'],
    [{ unit: 'furlong' }, 'unit', '“furlong” is no unit that is known here. Choose one of the list.'],
    [{ unit: 'toString' }, 'unit', '“toString” is no unit that is known here. Choose one of the list.'],
    [{ decimals: '1.5' }, 'decimals', 'Decimals are a whole number from 0 to 6.'],
    [{ low: 'much' }, 'low', '“much” is no number.'],
    [{ low: '10', high: '10' }, 'high', 'The highest must be above the lowest, 10.0.'],
    [{ ...VALVE, states: '0=closed, 0=open' }, 'states', '0 is given twice: closed and open.'],
    [{ ...VALVE, states: '0=open, 1=open' }, 'states', '“open” is given twice.'],
    [{ ...VALVE, states: '0=open' }, 'states', 'A state has two words at least, as in 0=closed, 1=open.'],
    [
      { ...VALVE, states: 'zero=closed, 1=open' },
      'states',
      '“zero=closed” is no state: write number = word, as in 0=closed.',
    ],
  ] as const)('%j', (fields, field, words) => expect(problem(fields, field)).toBe(words))
  test('a key that is there already', () =>
    expect(problem({}, 'key', ['hw.pump.vibration'])).toBe('hw.pump.vibration is there already.'))
})

test('once it is known it is a measure like any other; once it is gone its key is its name', () => {
  const key = 'hw.pump.vibration' as MeasureKey
  expect(isMeasureKey(key)).toBe(false)
  const verdict = read({})
  setOwnMeasures(verdict.kind === 'measure' ? [verdict.measure] : [])
  expect(isMeasureKey(key)).toBe(true)
  expect(measureKeys().at(-1)).toBe(key)
  expect(formatReading(key, 12.34)).toBe('12.3\u00a0Hz')
  expect(resolutionOf(key)).toBeCloseTo(0.1)
  setOwnMeasures([])
  expect(measureOf(key).label).toBe('hw.pump.vibration')
  expect(formatReading(key, 12.34)).toBe('12.34')
})

test('a value is sane exactly within its range', () => {
  fc.assert(
    fc.property(
      fc.option(fc.integer({ min: -50, max: 0 })),
      fc.option(fc.integer({ min: 1, max: 50 })),
      fc.double({ min: -100, max: 100, noNaN: true }),
      (low, high, value) => {
        const measure = { ...measureOf('hw.temperature'), range: { low, high } }
        expect(isSane(measure, value)).toBe(
          (low === null || value >= low) && (high === null || value <= high),
        )
      },
    ),
  )
  expect(isSane(measureOf('hw.temperature'), -127)).toBe(true)
})
