import fc from 'fast-check'
import { afterEach, describe, expect, test } from 'vitest'
import { formatValue, symbolOf } from './format.ts'
import { parseAmount } from './parse.ts'
import { fromCelsius, inReadersScale, readTemperaturesIn, toCelsius } from './scale.ts'
import { writeAmount } from './write.ts'

afterEach(() => readTemperaturesIn(() => 'celsius'))

describe('whoever reads °F', () => {
  // The fixed points of the scales (ice, boiling water at one atmosphere), body heat, and where both are alike.
  test.each([
    [0, '32.0'],
    [100, '212.0'],
    [37, '98.6'],
    [-40, '-40.0'],
  ])('sees %s °C as %s °F', (celsius, shown) => {
    readTemperaturesIn(() => 'fahrenheit')
    expect(formatValue(celsius, 'celsius', 1)).toBe(`${shown}\u00a0°F`)
    expect(symbolOf('celsius')).toBe('°F')
    expect(formatValue(celsius, 'watt', 1)).toContain('W')
  })
  test('writes °F with and without its sign, and may write °C', () => {
    readTemperaturesIn(() => 'fahrenheit')
    expect(parseAmount('86', 'celsius')).toBe(30)
    expect(parseAmount('86 °F', 'celsius')).toBe(30)
    expect(parseAmount('30 °C', 'celsius')).toBe(30)
    expect(parseAmount('9 °F', 'celsius', { isDifference: true })).toBe(5)
    expect(parseAmount('9', 'celsius', { isDifference: true })).toBe(9)
    expect(() => parseAmount('warm', 'celsius')).toThrow('86 °F')
  })
  test('finds in a field what gives the same line back', () => {
    readTemperaturesIn(() => 'fahrenheit')
    expect(writeAmount(27, 'celsius')).toBe('80.6 °F')
    fc.assert(
      fc.property(fc.integer({ min: -60_000, max: 400_000 }), (thousandths) => {
        const celsius = thousandths / 1000
        expect(parseAmount(writeAmount(celsius, 'celsius'), 'celsius')).toBe(celsius)
      }),
    )
  })
  test('reads words with temperatures in them, and nothing else changed', () => {
    readTemperaturesIn(() => 'fahrenheit')
    expect(inReadersScale('18 to 21 °C, at most 27\u00a0°C in 18 to 20 U; -5.0 °C, 10 K')).toBe(
      '64 to 70 °F, at most 81\u00a0°F in 18 to 20 U; 23.0 °F, 10 K',
    )
  })
})

test('who says nothing reads °C, and words are left as they are', () => {
  expect(formatValue(41.23, 'celsius', 1)).toBe('41.2\u00a0°C')
  expect(parseAmount('86', 'celsius')).toBe(86)
  expect(inReadersScale('27 °C')).toBe('27 °C')
})

test('there and back again is the same', () => {
  fc.assert(
    fc.property(fc.double({ min: -273, max: 2000, noNaN: true }), (celsius) => {
      expect(toCelsius(fromCelsius(celsius, 'fahrenheit'), 'fahrenheit')).toBeCloseTo(celsius, 9)
    }),
  )
})
