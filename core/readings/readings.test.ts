import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import {
  alignToSlot,
  axisBounds,
  type Curve,
  decodeSlots,
  encodeSlots,
  findGaps,
  readSlot,
  reduceForDrawing,
  slotPhaseMs,
  summarize,
  windowOf,
} from './index.ts'

describe('slots', () => {
  test('every value survives, missing ones stay missing', () => {
    const slots = fc.array(fc.option(fc.double({ noNaN: true })))
    fc.assert(
      fc.property(slots, (values) => {
        expect(decodeSlots(encodeSlots(values))).toEqual(values)
      }),
    )
  })

  test('a slot beyond an older, shorter row is missing', () => {
    expect(readSlot(encodeSlots([1.5]), 1)).toBeNull()
    expect(readSlot(encodeSlots([1.5]), 0)).toBe(1.5)
  })

  test('a torn row is an error, not a number', () => {
    expect(() => decodeSlots(new Uint8Array(12))).toThrow(/whole slots/)
  })

  // IEEE 754 binary64 of 1.0 is 3FF0000000000000; little-endian puts the last byte first.
  test('the bytes are binary64, little-endian', () => {
    expect([...encodeSlots([1])]).toEqual([0, 0, 0, 0, 0, 0, 0xf0, 0x3f])
  })
})

const curves = fc
  .array(fc.tuple(fc.integer({ min: 1, max: 5000 }), fc.double({ noNaN: true, noDefaultInfinity: true })), {
    minLength: 1,
    maxLength: 400,
  })
  .map((steps): Curve => {
    let at = 1_000_000
    const times = steps.map(([gap]) => (at += gap))
    return { times: Float64Array.from(times), values: Float64Array.from(steps, ([, value]) => value) }
  })

describe('reduction for drawing', () => {
  test('keeps the true extremes of every pixel, its own points only, and their order', () => {
    fc.assert(
      fc.property(curves, fc.integer({ min: 1, max: 60 }), (curve, pixels) => {
        const drawn = reduceForDrawing(curve, pixels)
        const from = curve.times[0]!
        const width = (curve.times.at(-1)! - from) / pixels || 1
        const pixelOf = (at: number): number => Math.min(pixels - 1, Math.floor((at - from) / width))
        const extremes = ({ times, values }: Curve): Map<number, [number, number]> => {
          const found = new Map<number, [number, number]>()
          times.forEach((at, index) => {
            const [low, high] = found.get(pixelOf(at)) ?? [Infinity, -Infinity]
            found.set(pixelOf(at), [Math.min(low, values[index]!), Math.max(high, values[index]!)])
          })
          return found
        }
        expect(extremes(drawn)).toEqual(extremes(curve))
        expect([...drawn.times]).toEqual([...drawn.times].sort((a, b) => a - b))
        expect(drawn.times.length).toBeLessThanOrEqual(pixels * 2 + 2)
        expect(drawn.times.at(-1)).toBe(curve.times.at(-1))
      }),
    )
  })
})

test('gaps are where neighbours are too far apart, and the open end', () => {
  expect(findGaps([0, 10, 20, 90, 100], 30, 105)).toEqual([{ fromMs: 20, toMs: 90 }])
  expect(findGaps([0, 10], 30, 100)).toEqual([{ fromMs: 10, toMs: 100 }])
  expect(findGaps([], 30, 100)).toEqual([])
})

test('where a source was asked less often nothing was missed; a silence within is still one', () => {
  const seldom = Array.from({ length: 12 }, (_, index) => index * 300)
  const often = Array.from({ length: 30 }, (_, index) => 3300 + (index + 1) * 10)
  expect(findGaps([...seldom, ...often], 30, 3610)).toEqual([])
  const silent = seldom.filter((at) => at < 900 || at > 2100)
  expect(findGaps([...silent, ...often], 30, 3610)).toEqual([{ fromMs: 600, toMs: 2400 }])
  const quiet = often.filter((at) => at < 3400 || at > 3500)
  expect(findGaps([...seldom, ...quiet], 30, 3610)).toEqual([{ fromMs: 3390, toMs: 3510 }])
})

test('a window that ends between two seldom readings has not gone silent; after three times as long it has', () => {
  const seldom = Array.from({ length: 12 }, (_, index) => index * 300)
  expect(findGaps(seldom, 180, 3300 + 299)).toEqual([])
  expect(findGaps(seldom, 180, 3300 + 901)).toEqual([{ fromMs: 3300, toMs: 4201 }])
})

test('a step is a gap against the median of the nine around it', () => {
  const steps = fc.array(fc.constantFrom(1, 2, 3, 5, 10, 31, 100), { minLength: 1, maxLength: 40 })
  fc.assert(
    fc.property(steps, fc.constantFrom(0, 4, 30), (each, longest) => {
      const times = each.reduce<number[]>((all, step) => [...all, all.at(-1)! + step], [0])
      const expected = each.flatMap((step, index) => {
        const around = each.slice(Math.max(0, index - 4), index + 5).sort((a, b) => a - b)
        const usual = around.length <= 4 ? 0 : around[Math.floor(around.length / 2)]!
        return step > longest && step > 3 * usual ? [{ fromMs: times[index]!, toMs: times[index + 1]! }] : []
      })
      expect(findGaps(times, longest, times.at(-1)!)).toEqual(expected)
    }),
  )
})

describe('slots of time', () => {
  test('a source is read once in every interval, always at its phase', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 1, max: 3600 }),
        fc.integer({ min: 0, max: 2e12 }),
        (id, seconds, atMs) => {
          const interval = seconds * 1000
          const phase = slotPhaseMs(id, interval)
          expect(phase).toBeGreaterThanOrEqual(0)
          expect(phase).toBeLessThan(interval)
          const slot = alignToSlot(atMs, interval, phase)
          expect(slot).toBeLessThanOrEqual(atMs)
          expect(atMs - slot).toBeLessThan(interval)
          expect(alignToSlot(slot, interval, phase)).toBe(slot)
          expect(alignToSlot(slot + interval, interval, phase)).toBe(slot + interval)
        },
      ),
    )
  })

  test('phases of neighbours are spread over the interval', () => {
    const phases = Array.from({ length: 60 }, (_, id) => slotPhaseMs(id + 1, 60_000))
    const perTenSeconds = [0, 1, 2, 3, 4, 5].map(
      (ten) => phases.filter((phase) => Math.floor(phase / 10_000) === ten).length,
    )
    expect(Math.min(...perTenSeconds)).toBeGreaterThanOrEqual(8)
  })
})

describe('the window of an address', () => {
  const now = 1_000_000_000_000
  test.each([
    { asked: { w: '1h', from: null, to: null }, from: now - 3_600_000, key: '1h' },
    { asked: { w: 'nonsense', from: null, to: null }, from: now - 6 * 3_600_000, key: '6h' },
    { asked: { w: null, from: '500', to: '400' }, from: now - 6 * 3_600_000, key: '6h' },
    { asked: { w: '1h', from: '500', to: '900' }, from: 500, key: 'own' },
    { asked: { w: 'constructor', from: null, to: null }, from: now - 6 * 3_600_000, key: '6h' },
  ])('$asked', ({ asked, from, key }) => {
    expect(windowOf(asked, now)).toMatchObject({ fromMs: from, key })
  })
})

test('a summary is last, least, mean, greatest; nothing of nothing', () => {
  expect(summarize([4, 1, 7])).toEqual({ last: 7, min: 1, mean: 4, max: 7 })
  expect(summarize([])).toBeNull()
})

describe('the axis of a chart', () => {
  test('holds all readings and ends on round steps', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 1 }), (values) => {
        const { min, max, interval } = axisBounds(values, [], 0.1)
        expect(min).toBeLessThanOrEqual(Math.min(...values))
        expect(max).toBeGreaterThanOrEqual(Math.max(...values))
        expect(Math.round((max - min) / interval)).toBeLessThanOrEqual(6)
      }),
    )
  })
  test('ends at what is the most there can be, and beyond it only with what was read there', () => {
    expect(axisBounds([0.2, 1], [0.85], 0.01, 1).max).toBe(1)
    expect(axisBounds([0.2, 1], [0.85], 0.01).max).toBeGreaterThan(1)
    expect(axisBounds([0.93, 1.04], [], 0.01, 1).max).toBeGreaterThanOrEqual(1.04)
  })
  test('takes in a near line and leaves a far one out', () => {
    expect(axisBounds([31, 32], [45], 0.1).max).toBeGreaterThanOrEqual(45)
    expect(axisBounds([31, 32], [95], 0.1).max).toBeLessThan(60)
  })
})
