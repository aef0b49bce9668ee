import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { type Count, growthRate, meanBetween } from './index.ts'

const count = (rest: Partial<Count>): Count => ({ atMs: 0, value: 0n, bits: 32, countingMs: null, ...rest })

describe('growth of a counter', () => {
  test.each<{ name: string; before: Partial<Count>; after: Partial<Count>; is: number | null }>([
    { name: 'grows', before: { value: 100n }, after: { atMs: 10_000, value: 600n }, is: 50 },
    { name: 'stands still', before: { value: 7n }, after: { atMs: 1000, value: 7n }, is: 0 },
    {
      // 2^32 - 1000 + 500 = 1500 more, in 30 s.
      name: 'wraps at 32 bits',
      before: { value: 2n ** 32n - 1000n, countingMs: 1e9 },
      after: { atMs: 30_000, value: 500n, countingMs: 1e9 + 30_000 },
      is: 50,
    },
    {
      name: 'is started anew',
      before: { value: 5000n, countingMs: 1e9 },
      after: { atMs: 60_000, value: 9000n, countingMs: 20_000 },
      is: null,
    },
    {
      name: 'is started anew, with a larger value than before',
      before: { value: 50n, countingMs: 30_000 },
      after: { atMs: 60_000, value: 9000n, countingMs: 40_000 },
      is: null,
    },
    {
      name: 'of 64 bits goes back',
      before: { value: 2n ** 63n, bits: 64 },
      after: { atMs: 1000, value: 5n, bits: 64 },
      is: null,
    },
    {
      name: 'goes back far without a word',
      before: { value: 3_000_000_000n },
      after: { atMs: 60_000, value: 10n },
      is: 21_582_788.433333334,
    },
    {
      name: 'goes back a little without a word',
      before: { value: 1_000_000n },
      after: { atMs: 60_000, value: 10n },
      is: null,
    },
    { name: 'is read twice at one moment', before: { value: 1n }, after: { value: 2n }, is: null },
    {
      name: 'is read out of order',
      before: { atMs: 500, value: 1n },
      after: { atMs: 100, value: 2n },
      is: null,
    },
    {
      // RFC 3418: sysUpTime wraps after 2^32 hundredths of a second; the counters go on.
      name: 'goes on while the uptime wraps',
      before: { value: 1000n, countingMs: 2 ** 32 * 10 - 20_000 },
      after: { atMs: 60_000, value: 4000n, countingMs: 40_000 },
      is: 50,
    },
  ])('$name', ({ before, after, is }) => {
    const rate = growthRate(count(before), count(after))
    if (is === null) expect(rate).toBeNull()
    else expect(rate).toBeCloseTo(is, 6)
  })

  test('above what a port can carry is no wrap', () => {
    const before = count({ value: 4_000_000_000n, countingMs: 1e9 })
    const after = count({ atMs: 1000, value: 10n, countingMs: 1e9 + 1000 })
    expect(growthRate(before, after, 125_000_000)).toBeNull()
    expect(growthRate(before, after, 1.25e9)).toBeCloseTo(294_967_306)
  })

  test('any growth below a whole turn is found again, wherever the counter stands', () => {
    const any = fc.record({
      start: fc.bigInt({ min: 0n, max: 2n ** 32n - 1n }),
      growth: fc.bigInt({ min: 0n, max: 2n ** 32n - 1n }),
      elapsedMs: fc.integer({ min: 1000, max: 3_600_000 }),
      driftMs: fc.integer({ min: -4000, max: 4000 }),
    })
    fc.assert(
      fc.property(any, ({ start, growth, elapsedMs, driftMs }) => {
        const before = count({ value: start, countingMs: 5e8 })
        const after = count({
          atMs: elapsedMs,
          value: (start + growth) % 2n ** 32n,
          countingMs: 5e8 + elapsedMs + driftMs,
        })
        expect(growthRate(before, after)).toBeCloseTo(Number(growth) / (elapsedMs / 1000), 3)
      }),
    )
  })

  test('of 64 bits keeps every unit beyond 2^53', () => {
    fc.assert(
      fc.property(
        fc.bigInt({ min: 0n, max: 2n ** 63n }),
        fc.integer({ min: 0, max: 2 ** 40 }),
        (start, growth) => {
          const before = count({ bits: 64, value: start })
          const after = count({ bits: 64, atMs: 1000, value: start + BigInt(growth) })
          expect(growthRate(before, after)).toBe(growth)
        },
      ),
    )
  })

  test('a restart never gives a number', () => {
    fc.assert(
      fc.property(
        fc.bigInt({ min: 0n, max: 2n ** 32n - 1n }),
        fc.bigInt({ min: 0n, max: 2n ** 32n - 1n }),
        fc.integer({ min: 0, max: 50_000 }),
        (was, is, countingMs) => {
          const before = count({ value: was, countingMs: 1e8 })
          expect(growthRate(before, count({ atMs: 60_000, value: is, countingMs }))).toBeNull()
        },
      ),
    )
  })
})

describe('means of what was seen in between', () => {
  const seen = (atMs: number, count: number, sum: number) => ({ atMs, count, sum })
  test.each<[string, ReturnType<typeof seen>, ReturnType<typeof seen>, number | null]>([
    ['two more', seen(0, 1, 100), seen(1, 3, 560), 230],
    ['none more', seen(0, 3, 560), seen(1, 3, 560), null],
    ['begun anew', seen(0, 9, 900), seen(1, 2, 50), 25],
    ['begun anew, nothing since', seen(0, 9, 900), seen(1, 0, 0), null],
    ['the same moment again', seen(5, 1, 100), seen(5, 3, 560), null],
    ['a moment that comes late', seen(5, 3, 560), seen(4, 1, 100), null],
  ])('%s', (_, before, now, mean) => expect(meanBetween(before, now)).toBe(mean))
})
