import fc from 'fast-check'
import { crc32 as zlibSum, deflateRawSync, inflateRawSync } from 'node:zlib'
import { describe, expect, test } from 'vitest'
import { joinHalves, packBlocks, packedSize, unpackBlocks } from './bits.ts'
import { ByteReader, ByteWriter, crc32 } from './bytes.ts'
import {
  ChunkError,
  decodeChunk,
  decodeChunks,
  decodeNumbers,
  decodePages,
  encodeChunk,
  pageHeads,
  readingsIn,
  type Squeezer,
} from './chunk.ts'
import type { Curve } from './curve.ts'
import { scaleOf } from './scale.ts'

const deflate: Squeezer = {
  squeeze: (bytes) => deflateRawSync(bytes),
  unsqueeze: (bytes, size) => inflateRawSync(bytes, { maxOutputLength: Math.max(1, size) }),
}
/** Never smaller: what is tested with it is the core's own layouts. */
const none: Squeezer = {
  squeeze: (bytes) => Uint8Array.from([...bytes, 0]),
  unsqueeze: (bytes) => bytes.subarray(0, -1),
}

const START = Date.UTC(2026, 10, 24)
const every = (stepMs: number, values: readonly number[]): Curve => ({
  times: Float64Array.from(values, (_, index) => START + index * stepMs),
  values: Float64Array.from(values),
})
const bits = (values: Float64Array): bigint[] => [...new BigUint64Array(values.slice().buffer)]
const NAN_BITS = bits(Float64Array.of(Number.NaN))[0]

function expectSame(got: Curve, given: Curve): void {
  expect([...got.times]).toEqual([...given.times])
  const plain = (values: Float64Array) =>
    bits(values).map((word, at) => (Number.isNaN(values[at]!) ? NAN_BITS : word))
  expect(plain(got.values)).toEqual(plain(given.values))
}

const anyDouble = fc.oneof(
  fc.double(),
  fc.constantFrom(
    0,
    -0,
    Number.NaN,
    Infinity,
    -Infinity,
    5e-324,
    Number.MAX_VALUE,
    2 ** 53,
    -(2 ** 53),
    0.1 + 0.2,
  ),
)
const decimal = fc
  .tuple(fc.integer({ min: -5_000_000, max: 5_000_000 }), fc.nat(4))
  .map(([m, e]) => m / 10 ** e)
const counter = fc
  .tuple(fc.maxSafeNat(), fc.array(fc.nat(2 ** 40), { minLength: 1, maxLength: 200 }))
  .map(([from, steps]) => {
    let at = from / 4
    return steps.map((step) => (at = Math.floor(at + step)))
  })
const valuesOf = fc.oneof(
  fc.array(anyDouble, { minLength: 1, maxLength: 200 }),
  fc.array(decimal, { minLength: 1, maxLength: 200 }),
  fc.array(fc.constantFrom(1, 2, 3), { minLength: 1, maxLength: 300 }),
  fc
    .tuple(anyDouble, fc.integer({ min: 1, max: 300 }))
    .map(([value, count]) => Array<number>(count).fill(value)),
  counter,
)
const timesFor = (count: number) =>
  fc
    .tuple(
      fc.integer({ min: -(2 ** 45), max: 2 ** 45 }),
      fc.oneof(fc.constant(60_000), fc.integer({ min: 1, max: 1_000_000 }), fc.constant(null)),
      fc.array(fc.oneof({ weight: 8, arbitrary: fc.constant(1) }, fc.integer({ min: 1, max: 5000 })), {
        minLength: count,
        maxLength: count,
      }),
    )
    .map(([from, step, jumps]) => {
      let at = from
      return Float64Array.from(
        jumps,
        (jump, index) => (at += index === 0 ? 0 : jump * (step ?? 1 + (index % 7))),
      )
    })
const curves: fc.Arbitrary<Curve> = valuesOf.chain((values) =>
  timesFor(values.length).map((times) => ({ times, values: Float64Array.from(values) })),
)

const cutAt = ({ times, values }: Curve, from: number, to: number): Curve => ({
  times: times.slice(from, to),
  values: values.slice(from, to),
})

describe('a chunk gives back what was put in', () => {
  test.each([
    ['with DEFLATE', deflate],
    ['by itself', none],
  ])('bit for bit, %s', (_, squeezer) => {
    fc.assert(
      fc.property(curves, (curve) => {
        const bytes = encodeChunk(curve, squeezer)
        expectSame(decodeChunk(bytes, squeezer), curve)
        expect(readingsIn(bytes)).toBe(curve.times.length)
      }),
      { numRuns: 600 },
    )
  })
  test('at the edge of what a whole number can be', () => {
    for (const power of [49, 50, 51, 52, 53, 54, 60]) {
      for (const sign of [1, -1]) {
        const values = [-2, -1, 0, 1, 2, 3].map((step) => sign * (2 ** power + step))
        for (const each of [
          values,
          values.map((value) => value / 10),
          [...values, 0],
          values.map((_, i) => sign * 2 ** power * i),
        ])
          expectSame(decodeChunk(encodeChunk(every(1000, each), deflate), deflate), every(1000, each))
      }
    }
  })
  test('over many pages, as a whole and page by page', () => {
    const values = Array.from({ length: 30_000 }, (_, index) => Math.round(1000 * Math.sin(index / 300)) / 10)
    const curve = every(60_000, values)
    const bytes = encodeChunk(curve, deflate)
    expectSame(decodeChunk(bytes, deflate), curve)
    const pages = [...decodePages(bytes, deflate)]
    expect(pages.length).toBeGreaterThan(3)
    expect(Math.max(...pages.map((page) => page.times.length))).toBeLessThanOrEqual(8192)
    expect(pages.flatMap((page) => [...page.values])).toEqual(values)
  })
  test('of several chunks as one, and their numbers into room that is there', () => {
    fc.assert(
      fc.property(curves, fc.nat(200), (curve, split) => {
        const parts = [cutAt(curve, 0, split), cutAt(curve, split, Infinity)]
        const chunks = parts.map((part) => encodeChunk(part, deflate))
        expectSame(decodeChunks(chunks, deflate), curve)
        const whole = { fromMs: -Infinity, toMs: Infinity }
        const numbers = curve.values.filter((value) => !Number.isNaN(value))
        expect(decodeNumbers(chunks, deflate, whole, new Float64Array(500).fill(7))).toEqual(numbers)
      }),
    )
  })
  test('no reading at all', () => {
    const empty = { times: new Float64Array(), values: new Float64Array() }
    expectSame(decodeChunk(encodeChunk(empty, deflate), deflate), empty)
  })
  test('any span of it, both ends included', () => {
    fc.assert(
      fc.property(
        curves,
        fc.double({ min: -0.2, max: 1.2, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (curve, at, share) => {
          const span = curve.times.at(-1)! - curve.times[0]!
          const from = Math.round(curve.times[0]! + at * span)
          const to = Math.round(from + share * span)
          const inside = [...curve.times.keys()].filter(
            (i) => curve.times[i]! >= from && curve.times[i]! <= to,
          )
          const bytes = encodeChunk(curve, deflate)
          expectSame(decodeChunk(bytes, deflate, from, to), {
            times: Float64Array.from(inside, (i) => curve.times[i]!),
            values: Float64Array.from(inside, (i) => curve.values[i]!),
          })
          const numbers = inside.map((i) => curve.values[i]!).filter((value) => !Number.isNaN(value))
          expect([...decodeNumbers([bytes], deflate, { fromMs: from, toMs: to })]).toEqual(numbers)
        },
      ),
    )
  })
})

describe('what a page says of itself is what its readings say', () => {
  test('count, ends, extremes, sum, last', () => {
    fc.assert(
      fc.property(curves, (curve) => {
        const heads = pageHeads(encodeChunk(curve, deflate))
        const numbers = curve.values.filter((value) => !Number.isNaN(value))
        expect(heads.reduce((total, head) => total + head.count, 0)).toBe(curve.times.length)
        expect([heads[0]!.firstMs, heads.at(-1)!.lastMs]).toEqual([curve.times[0], curve.times.at(-1)])
        const [head] = heads
        expect(head!.numbers).toBe(numbers.length)
        if (numbers.length === 0) return
        expect(head!.min + 0).toBe(Math.min(...numbers) + 0)
        expect(head!.max + 0).toBe(Math.max(...numbers) + 0)
        expect(head!.last).toBe(numbers.at(-1))
        const sum = numbers.reduce((a, b) => a + b, 0)
        if (Number.isFinite(sum)) {
          const size = numbers.reduce((a, b) => a + Math.abs(b), 0)
          expect(Math.abs(head!.sum - sum)).toBeLessThanOrEqual(size * 1e-12)
        }
      }),
    )
  })
  test('ten tenths are one', () => {
    const [head] = pageHeads(encodeChunk(every(1000, Array<number>(10).fill(0.1)), deflate))
    expect(head!.sum).toBe(1)
  })
})

describe('altered bytes', () => {
  const curve = every(
    60_000,
    Array.from({ length: 500 }, (_, index) => 20 + ((index * 7919) % 100) / 10),
  )
  const whole = encodeChunk(curve, deflate)
  test('every single flipped bit is noticed', () => {
    for (let bit = 0; bit < whole.length * 8; bit += 1) {
      const bad = whole.slice()
      bad[bit >> 3]! ^= 1 << (bit & 7)
      expect(() => decodeChunk(bad, deflate), `bit ${bit}`).toThrow(ChunkError)
    }
  })
  test('cut short or prolonged at any place is noticed', () => {
    for (let size = 0; size < whole.length; size += 1)
      expect(() => decodeChunk(whole.slice(0, size), deflate)).toThrow(ChunkError)
    expect(() => decodeChunk(Uint8Array.from([...whole, 0]), deflate)).toThrow(/follow the end/)
  })
  test('any bytes give an error, never another kind of failure', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), (bytes) => {
        expect(() => decodeChunk(Uint8Array.from([0xa7, 1, 1, ...bytes]), deflate)).toThrow(ChunkError)
      }),
    )
  })
  test('a version of another time is refused in words', () => {
    const later = whole.slice()
    later[1] = 2
    expect(() => decodeChunk(later, deflate)).toThrow('begins with 167 2, not with 167 1')
  })
})

test.each([
  { name: 'unequal lengths', times: [1, 2], values: [1], says: /2 instants with 1 values/ },
  { name: 'an instant twice', times: [1, 1], values: [1, 2], says: /does not come after/ },
  { name: 'an instant that goes back', times: [2, 1], values: [1, 2], says: /does not come after/ },
  { name: 'half a millisecond', times: [1.5], values: [1], says: /not a whole millisecond/ },
])('$name is refused', ({ times, values, says }) => {
  const curve = { times: Float64Array.from(times), values: Float64Array.from(values) }
  expect(() => encodeChunk(curve, deflate)).toThrow(says)
})

describe('small for what is really read', () => {
  const day = 1440
  // A fixed generator, so that the sizes are the same at every run.
  const random = (seed: number) => () => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647
  const next = random(7)
  const kinds = {
    'a constant': Array<number>(day).fill(230.1),
    'a state with few changes': Array.from({ length: day }, (_, i) => (i > 300 && i < 340 ? 5 : 3)),
    'a steady counter': Array.from({ length: day }, (_, i) => 9_000_000_000 + i * 4096),
    'tenths of a degree': Array.from(
      { length: day },
      (_, i) => Math.round(220 + 20 * Math.sin(i / 200) + 2 * next()) / 10,
    ),
    'noisy percent': Array.from({ length: day }, () => Math.round(3000 + 400 * next()) / 10_000),
  }
  const most = {
    'a constant': 0.05,
    'a state with few changes': 0.08,
    'a steady counter': 0.08,
    'tenths of a degree': 0.45,
    'noisy percent': 1.3,
  }
  test.each(Object.keys(kinds) as (keyof typeof kinds)[])('%s', (name) => {
    const bytes = encodeChunk(every(60_000, kinds[name]), deflate)
    expect(bytes.length / day).toBeLessThan(most[name])
  })
  test('gaps cost next to nothing', () => {
    const { times, values } = every(60_000, kinds['a constant'])
    const keep = [...times.keys()].filter((i) => i % 200 > 5)
    const gappy = {
      times: Float64Array.from(keep, (i) => times[i]!),
      values: Float64Array.from(keep, (i) => values[i]!),
    }
    expect(encodeChunk(gappy, deflate).length).toBeLessThan(120)
  })
})

describe('its pieces', () => {
  test('CRC-32 of “123456789” is the published check value', () => {
    expect(crc32(new TextEncoder().encode('123456789'))).toBe(0xcbf4_3926)
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => {
        expect(crc32(bytes)).toBe(zlibSum(bytes))
      }),
    )
  })
  test('packed blocks of every width', () => {
    fc.assert(
      fc.property(
        fc.array(fc.nat(53), { minLength: 1, maxLength: 100 }),
        fc.array(fc.maxSafeNat(), { minLength: 100, maxLength: 100 }),
        (widths, raw) => {
          const values = Float64Array.from(widths, (width, index) =>
            width === 0 ? 0 : raw[index]! % 2 ** width,
          )
          const bytes = new Uint8Array(packedSize(values))
          expect(packBlocks(values, bytes, 0)).toBe(bytes.length)
          const low = new Uint32Array(values.length)
          const { at, high } = unpackBlocks(bytes, 0, low)
          expect(at).toBe(bytes.length)
          expect([...(high === null ? low : joinHalves(low, high))]).toEqual([...values])
        },
      ),
    )
  })
  test('whole numbers of either sign', () => {
    fc.assert(
      fc.property(fc.integer({ min: -(2 ** 51), max: 2 ** 51 }), (value) => {
        const writer = new ByteWriter()
        writer.signed(value)
        expect(new ByteReader(writer.bytes()).signed()).toBe(value)
      }),
    )
  })
  test.each([
    { values: [1, 2, 3], exponent: 0 },
    { values: [0.5, 20.25], exponent: 2 },
    { values: [0.1 + 0.2], exponent: null },
    { values: [-0], exponent: null },
    { values: [1 / 3], exponent: null },
    { values: [Number.NaN], exponent: null },
    { values: [2 ** 51 - 1], exponent: 0 },
    { values: [2 ** 51], exponent: null },
  ])('the decimals of $values are $exponent', ({ values, exponent }) => {
    expect(scaleOf(Float64Array.from(values))?.exponent ?? null).toBe(exponent)
  })
})
