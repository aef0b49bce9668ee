import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import {
  addDays,
  bucketCurve,
  bucketHours,
  ChunkError,
  type Curve,
  decodeHours,
  decodeSketches,
  encodeHours,
  encodeSketches,
  HOUR_MS,
  type Hours,
  hoursBetween,
  hoursOf,
  joinHours,
  mergeCurves,
  percentilesOf,
  reduceForDrawing,
  reduceHours,
  replaceHours,
  Sketch,
  SKETCH_ERROR,
  sketchBytes,
  type Squeezer,
} from './index.ts'

const none: Squeezer = {
  squeeze: (bytes) => Uint8Array.from([...bytes, 0]),
  unsqueeze: (bytes) => bytes.subarray(0, -1),
}
const START = Date.UTC(2026, 10, 24)
const tenths = fc.integer({ min: -3000, max: 3000 }).map((value) => value / 10)
/** Ascending instants over some days, seldom regular. */
const curves: fc.Arbitrary<Curve> = fc
  .array(fc.tuple(fc.integer({ min: 1, max: 7_000_000 }), tenths), { minLength: 1, maxLength: 120 })
  .map((steps) => {
    let at = START
    return {
      times: Float64Array.from(steps, ([step]) => (at += step)),
      values: Float64Array.from(steps, ([, value]) => value),
    }
  })
const rows = (hours: Hours) =>
  [...hours.times].map((atMs, i) => [
    atMs,
    hours.count[i],
    hours.min[i],
    hours.max[i],
    hours.sum[i],
    hours.last[i],
  ])

describe('hours', () => {
  test('of readings by hand', () => {
    const hours = hoursOf({
      times: Float64Array.of(START, START + 60_000, START + HOUR_MS, START + 3 * HOUR_MS),
      values: Float64Array.of(0.1, 0.2, Number.NaN, -4),
    })
    expect(rows(hours)).toEqual([
      [START, 2, 0.1, 0.2, 0.3, 0.2],
      [START + 3 * HOUR_MS, 1, -4, -4, -4, -4],
    ])
  })
  test('come back from their bytes, and altered bytes are refused', () => {
    fc.assert(
      fc.property(curves, fc.nat(), (curve, where) => {
        const hours = hoursOf(curve)
        const bytes = encodeHours(hours, none)
        expect(rows(decodeHours(bytes, none))).toEqual(rows(hours))
        const bad = bytes.slice()
        bad[where % bad.length]! ^= 1
        expect(() => decodeHours(bad, none)).toThrow(ChunkError)
      }),
    )
  })
  test('replaced for a span are as if made from all readings anew', () => {
    fc.assert(
      fc.property(curves, curves, (old, fresh) => {
        const day = 86_400_000
        const inDay = (curve: Curve, isInside: boolean): Curve => {
          const keep = [...curve.times.keys()].filter(
            (i) => (curve.times[i]! >= START + day && curve.times[i]! < START + 2 * day) === isInside,
          )
          return {
            times: Float64Array.from(keep, (i) => curve.times[i]!),
            values: Float64Array.from(keep, (i) => curve.values[i]!),
          }
        }
        const both = mergeCurves(inDay(old, false), inDay(fresh, true)).curve
        const replaced = replaceHours(hoursOf(old), hoursOf(inDay(fresh, true)), START + day, START + 2 * day)
        expect(rows(replaced)).toEqual(rows(hoursOf(both)))
        const parts = [hoursBetween(replaced, 0, START + day), hoursBetween(replaced, START + day, Infinity)]
        expect(rows(joinHours(parts))).toEqual(rows(replaced))
      }),
    )
  })
  test('in buckets say what the readings in buckets say', () => {
    fc.assert(
      fc.property(curves, fc.integer({ min: 1, max: 30 }), (curve, hours) => {
        const [fromHours, fromRaw] = [
          bucketHours(hoursOf(curve), START, hours * HOUR_MS),
          bucketCurve(curve, START, hours * HOUR_MS),
        ]
        expect(
          fromHours.map(({ fromMs, count, min, max, last }) => ({ fromMs, count, min, max, last })),
        ).toEqual(fromRaw.map(({ fromMs, count, min, max, last }) => ({ fromMs, count, min, max, last })))
        fromHours.forEach((bucket, index) => expect(bucket.sum).toBeCloseTo(fromRaw[index]!.sum, 6))
      }),
    )
  })
})

describe('drawing', () => {
  test('keeps the true minimum and maximum of every pixel, from readings', () => {
    fc.assert(
      fc.property(curves, fc.integer({ min: 1, max: 40 }), (curve, pixels) => {
        const drawn = reduceForDrawing(curve, pixels)
        const from = curve.times[0]!
        const width = (curve.times.at(-1)! - from) / pixels || 1
        const pixelOf = (atMs: number) => Math.min(pixels - 1, Math.floor((atMs - from) / width))
        const extremes = ({ times, values }: Curve) => {
          const found = new Map<number, [number, number]>()
          times.forEach((atMs, i) => {
            const [low, high] = found.get(pixelOf(atMs)) ?? [Infinity, -Infinity]
            found.set(pixelOf(atMs), [Math.min(low, values[i]!), Math.max(high, values[i]!)])
          })
          return [...found]
        }
        expect(extremes(drawn)).toEqual(extremes(curve))
        expect(drawn.times.length).toBeLessThanOrEqual(Math.max(2 * pixels + 2, 2 * pixels))
      }),
    )
  })
  test('keeps them from hours, too, for pixels of whole hours', () => {
    fc.assert(
      fc.property(curves, fc.integer({ min: 1, max: 40 }), (curve, pixels) => {
        const hours = hoursOf(curve)
        const drawn = reduceHours(hours, pixels)
        const from = hours.times[0]!
        const width =
          Math.max(1, Math.ceil((hours.times.at(-1)! + HOUR_MS - from) / HOUR_MS / pixels)) * HOUR_MS
        const extremes = ({ times, values }: Curve) => {
          const found = new Map<number, [number, number]>()
          times.forEach((atMs, i) => {
            const pixel = Math.floor((atMs - from) / width)
            const [low, high] = found.get(pixel) ?? [Infinity, -Infinity]
            found.set(pixel, [Math.min(low, values[i]!), Math.max(high, values[i]!)])
          })
          return [...found]
        }
        expect(extremes(drawn)).toEqual(extremes(curve))
        expect(drawn.times.length).toBeLessThanOrEqual(2 * pixels)
        expect([...drawn.times]).toEqual([...drawn.times].sort((a, b) => a - b))
      }),
    )
  })
})

describe('percentiles', () => {
  // Hyndman and Fan, type 7, by hand: position 0.95 × 9 = 8.55 between the 9th and 10th of 1..10.
  test.each([
    { values: [3, 1, 2], ratio: 0.5, is: 2 },
    { values: [4, 1, 3, 2], ratio: 0.5, is: 2.5 },
    { values: [10, 9, 8, 7, 6, 5, 4, 3, 2, 1], ratio: 0.95, is: 9.55 },
    { values: [7], ratio: 0.2, is: 7 },
    { values: [1, 2], ratio: 1, is: 2 },
  ])('$ratio of $values is $is', ({ values, ratio, is }) => {
    expect(percentilesOf(Float64Array.from(values), [ratio])[0]).toBeCloseTo(is, 12)
  })
  test('are what sorting gives', () => {
    fc.assert(
      fc.property(
        fc.array(tenths, { minLength: 1, maxLength: 300 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (values, ratio) => {
          const sorted = [...values].sort((a, b) => a - b)
          const at = ratio * (values.length - 1)
          const low = sorted[Math.floor(at)]!
          const expected = low + ((sorted[Math.ceil(at)] ?? low) - low) * (at - Math.floor(at))
          expect(percentilesOf(Float64Array.from(values), [0.5, ratio])[1]).toBeCloseTo(expected, 9)
        },
      ),
    )
  })
  const many = (count: number, maker: (index: number) => number) =>
    Float64Array.from({ length: count }, (_, index) => maker(index))
  test.each([
    {
      what: 'a swing in step with the sample',
      values: many(51_200, (index) => (index % 100 === 50 ? 1000 : index % 7)),
    },
    { what: 'steps', values: many(20_000, (index) => (index % 90 < 20 ? 5 : 3)) },
    { what: 'one value', values: many(9000, () => 4.5) },
    { what: 'a climb', values: many(30_001, (index) => index / 10) },
    { what: 'noise', values: many(43_200, (index) => Math.round(1000 * Math.sin(index * index)) / 10) },
    { what: 'infinities', values: many(10_000, (index) => (index % 3 === 0 ? Infinity : index)) },
  ])('of many: $what', ({ values }) => {
    const sorted = values.slice().sort()
    for (const ratio of [0, 0.0001, 0.05, 0.5, 0.9, 0.95, 0.99, 0.9999, 1]) {
      const at = ratio * (values.length - 1)
      const [low, high] = [sorted[Math.floor(at)]!, sorted[Math.ceil(at)]!]
      const expected =
        at === Math.floor(at) || low === high ? low : low + (high - low) * (at - Math.floor(at))
      expect(percentilesOf(values.slice(), [ratio])[0], `${ratio}`).toBe(expected)
    }
  })
  test('of nothing are unknown', () => {
    expect(percentilesOf(new Float64Array(), [0.5, 0.95])).toEqual([null, null])
    expect(new Sketch().percentile(0.5)).toBeNull()
  })
})

describe('a sketch', () => {
  const any = fc.oneof(
    tenths,
    fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e300, max: 1e300 }),
    fc.constant(0),
  )
  test('is off by at most its error from the nearest rank, over any split into days', () => {
    fc.assert(
      fc.property(
        fc.array(any, { minLength: 1, maxLength: 300 }),
        fc.nat(300),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (values, cut, ratio) => {
          const days = new Map([
            [20_000, sketchBytes(Float64Array.from(values.slice(0, cut)))],
            [20_001, sketchBytes(Float64Array.from(values.slice(cut)))],
          ])
          const sketch = new Sketch()
          addDays(sketch, encodeSketches(days), 20_000, 20_002)
          expect(sketch.count).toBe(values.length)
          const sorted = [...values].sort((a, b) => a - b)
          const truth = sorted[Math.max(1, Math.ceil(ratio * values.length)) - 1]!
          expect(Math.abs(sketch.percentile(ratio)! - truth)).toBeLessThanOrEqual(
            Math.abs(truth) * SKETCH_ERROR * (1 + 1e-9) + 1e-307,
          )
        },
      ),
      { numRuns: 400 },
    )
  })
  test('of days outside the span is not added', () => {
    const days = new Map([
      [1, sketchBytes(Float64Array.of(1))],
      [2, sketchBytes(Float64Array.of(2, 2))],
    ])
    const sketch = new Sketch()
    addDays(sketch, encodeSketches(days), 2, 3)
    expect(sketch.count).toBe(2)
  })
  test('altered bytes are refused', () => {
    const bytes = encodeSketches(new Map([[1, sketchBytes(Float64Array.of(1, 2, 3))]]))
    for (let at = 0; at < bytes.length; at += 1) {
      const bad = bytes.slice()
      bad[at]! ^= 4
      expect(() => decodeSketches(bad)).toThrow(ChunkError)
    }
  })
})

describe('merging', () => {
  test('every instant once; equal values are one reading, others a correction', () => {
    const { curve, corrections } = mergeCurves(
      { times: Float64Array.of(1, 2, 4), values: Float64Array.of(10, 20, 40) },
      { times: Float64Array.of(2, 3, 4), values: Float64Array.of(20, 30, 44) },
    )
    expect([[...curve.times], [...curve.values]]).toEqual([
      [1, 2, 3, 4],
      [10, 20, 30, 44],
    ])
    expect(corrections).toEqual([{ atMs: 4, was: 40, became: 44 }])
  })
  test('with itself changes nothing', () => {
    fc.assert(
      fc.property(curves, (curve) => {
        const merged = mergeCurves(curve, curve)
        expect([...merged.curve.times]).toEqual([...curve.times])
        expect(merged.corrections).toEqual([])
      }),
    )
  })
})
