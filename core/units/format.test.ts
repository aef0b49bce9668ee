import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { formatBytes, formatElapsed, formatMoment, formatNumber, formatValue } from './index.ts'

const plain = (text: string): string => text.replaceAll(/[\u00a0\u202f]/g, ' ')

test.each([
  { value: 0.783, unit: 'ratio' as const, decimals: 1, text: '78.3 %' },
  { value: 41.25, unit: 'celsius' as const, decimals: 1, text: '41.3 °C' },
  { value: 5380, unit: 'rpm' as const, decimals: 0, text: '5 380 rpm' },
  { value: 3, unit: 'count' as const, decimals: 0, text: '3' },
  { value: -0.004, unit: 'celsius' as const, decimals: 1, text: '0.0 °C' },
])('$value $unit reads $text', ({ value, unit, decimals, text }) => {
  expect(plain(formatValue(value, unit, decimals))).toBe(text)
})

// IEC 80000-13: 1 KiB = 1024 B.
test.each([
  { bytes: 0, text: '0 B' },
  { bytes: 1023, text: '1 023 B' },
  { bytes: 1024, text: '1.0 KiB' },
  { bytes: 8 * 1024 ** 4, text: '8.0 TiB' },
  { bytes: 3_840_755_982_336, text: '3.5 TiB' },
])('$bytes bytes read $text', ({ bytes, text }) => {
  expect(plain(formatBytes(bytes))).toBe(text)
})

test('grouping keeps every digit', () => {
  fc.assert(
    fc.property(fc.integer({ min: -1e12, max: 1e12 }), (value) => {
      expect(Number(formatNumber(value, 0).replaceAll('\u202f', ''))).toBe(value === 0 ? 0 : value)
    }),
  )
})

describe('time', () => {
  test.each([
    { ms: -5, text: '0 s' },
    { ms: 59_999, text: '59 s' },
    { ms: 22 * 60_000, text: '22 min' },
    { ms: 3 * 3_600_000 + 20 * 60_000, text: '3 h 20 min' },
    { ms: 3 * 3_600_000, text: '3 h' },
    { ms: 52 * 3_600_000, text: '2 d 4 h' },
  ])('$ms ms is $text', ({ ms, text }) => {
    expect(plain(formatElapsed(ms))).toBe(text)
  })

  test('the day is named only when it is another one', () => {
    const now = Date.UTC(2026, 10, 24, 2, 21)
    expect(formatMoment(Date.UTC(2026, 10, 24, 2, 9), now, 'UTC')).toBe('02:09')
    expect(formatMoment(Date.UTC(2026, 10, 23, 2, 9), now, 'UTC')).toBe('23 Nov 02:09')
    expect(formatMoment(Date.UTC(2026, 10, 23, 23, 9), now, 'Europe/Oslo')).toBe('00:09')
  })
})
