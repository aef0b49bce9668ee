import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { DAY_MS, type Forecast, type ForecastInput, HOUR_MS } from './face.ts'
import { fitHistory, forecast, forecastOf } from './forecast.ts'
import { normal, uniform } from './random.ts'

const NOW = Date.UTC(2026, 10, 27, 10)

/** Days of a course, the last one now. */
function daily(
  days: number,
  valueAt: (day: number) => number,
  more: Partial<ForecastInput> = {},
): ForecastInput {
  const at = Array.from({ length: days }, (_, index) => index - days + 1)
  return {
    kind: 'space',
    atMs: Float64Array.from(at, (day) => NOW + day * DAY_MS),
    values: Float64Array.from(at, valueAt),
    line: 100,
    direction: 'up',
    nowMs: NOW,
    horizonDays: 180,
    seed: 1,
    ...more,
  }
}
const hourly = (
  days: number,
  valueAt: (day: number) => number,
  more: Partial<ForecastInput> = {},
): ForecastInput => {
  const at = Array.from({ length: days * 24 }, (_, index) => (index + 1) / 24 - days)
  return {
    ...daily(1, valueAt, more),
    atMs: Float64Array.from(at, (day) => NOW + Math.round(day * 24) * HOUR_MS),
    values: Float64Array.from(at, valueAt),
    ...more,
  }
}
const dice = (seed: number): (() => number) => normal(uniform(seed))
const noise = (size: number, seed = 3) => {
  const draw = dice(seed)
  return () => size * draw()
}
const daysTo = (ms: number | null): number => (ms === null ? Infinity : (ms - NOW) / DAY_MS)
const median = ({ p50Ms }: Forecast): number => daysTo(p50Ms)

describe('what grows steadily', () => {
  // By hand: 60 today and half a day more each day is 100 after 80 days.
  test('reaches its line when arithmetic says so, and says how fast and since when', () => {
    const told = forecast(daily(120, (day) => 60 + 0.5 * day))
    expect(told.verdict).toBe('crosses')
    expect(median(told)).toBeCloseTo(80, 0)
    expect(told.sentence).toMatch(/^Grows 0\.5 a day since 31 Jul\.$/)
    expect(told.days.p50).toHaveLength(180)
    expect(told.days.p50[40]).toBeCloseTo(80, 0)
  })

  test('all other lines come from the same fit', () => {
    const fitted = fitHistory(daily(120, (day) => 60 + 0.5 * day))
    expect(median(forecastOf(fitted, 80))).toBeCloseTo(40, 0)
    expect(median(forecastOf(fitted, 90))).toBeCloseTo(60, 0)
    expect(forecastOf(fitted, 55).verdict).toBe('over')
    expect(median(forecastOf(fitted, 100, 2)), 'were it twice as fast').toBeCloseTo(40, 0)
  })

  test('a floor is the same upside down', () => {
    const told = forecast(
      daily(120, (day) => 40 - 0.25 * day, { line: 30, direction: 'down', kind: 'runtime' }),
    )
    expect(median(told)).toBeCloseTo(40, 0)
    expect(told.sentence).toMatch(/^Falls 0\.25 a day/)
    expect(told.days.p10[20]!).toBeLessThanOrEqual(told.days.p90[20]!)
  })

  test('what is flat or shrinks is not in sight of its line', () => {
    const still = noise(2)
    expect(forecast(daily(120, () => 50 + still())).verdict).toBe('not-in-sight')
    expect(forecast(daily(120, (day) => 50 - 0.2 * day + still())).verdict).toBe('not-in-sight')
  })
})

describe('what is no growth', () => {
  test('a bulk copy is a step, and the rest goes on as before', () => {
    const some = noise(0.3)
    const told = forecast(daily(120, (day) => 40 + 0.1 * day + (day >= -30 ? 25 : 0) + some()))
    // 65 today and a tenth a day: 350 days, were it not for the step; with a line through it all about 60.
    expect(told.verdict).toBe('not-in-sight')
    const step = told.seen.find((each) => each.what === 'step')
    expect(step).toMatchObject({ atMs: NOW - 30 * DAY_MS })
    expect(step?.what === 'step' && step.size).toBeCloseTo(25, 0)
    expect(told.sentence).toMatch(/a rise of 2[45][.\d]* on 28 Oct counts as a step/)
  })

  test('a step alone never makes a run-out', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -100, max: -8 }),
        fc.integer({ min: 5, max: 35 }),
        fc.integer(),
        (at, size, seed) => {
          const some = noise(0.4, seed)
          const told = forecast(daily(120, (day) => 40 + (day >= at ? size : 0) + some(), { line: 95 }))
          expect(told.verdict).toBe('not-in-sight')
        },
      ),
      { numRuns: 12 },
    )
  })

  test('somebody may say that it is growth, or that it came once', () => {
    const course = (day: number): number => 40 + (day >= -90 ? 10 : 0) + (day >= -40 ? 10 : 0)
    const some = noise(0.2)
    const given = daily(120, (day) => course(day) + some(), { line: 75, horizonDays: 400 })
    expect(forecast(given).verdict).toBe('not-in-sight')
    const marks = [-90, -40].map((day) => ({ atMs: NOW + day * DAY_MS, as: 'growth' as const }))
    const told = forecast({ ...given, marks })
    expect(told.verdict).toBe('crosses')
    expect(told.seen).toContainEqual(expect.objectContaining({ what: 'jumps', count: 2 }))
  })

  // By hand: 82 now, and 6 more after 5, 50 and 95 days are 100.
  test('equal jumps that are too large for a unit of the device go on as jumps', () => {
    const told = forecast(daily(360, (day) => 34 + 6 * Math.floor((day + 400) / 45)))
    expect(told.seen).toContainEqual(expect.objectContaining({ what: 'jumps' }))
    expect(median(told)).toBeGreaterThan(85)
    expect(median(told)).toBeLessThan(105)
    expect(told.days.p50[2], 'until the next one nothing comes').toBeCloseTo(82, 0)
  })
  test('whole percents of a device are what it tells by, and between two of them it goes on', () => {
    const told = forecast(daily(300, (day) => Math.floor(60 + 0.05 * day)))
    expect(told.seen).not.toContainEqual(expect.objectContaining({ what: 'jumps' }))
  })
  test('three jumps over the history are growth', () => {
    const some = noise(0.2)
    const told = forecast(daily(150, (day) => 20 + 10 * Math.floor((day + 155) / 30) + some(), { line: 89 }))
    // It stands at 70 and gains ten every thirty days, the last five days ago: 80 in 25 days, 90 in 55.
    expect(told.verdict).toBe('crosses')
    expect(median(told)).toBeGreaterThan(45)
    expect(median(told)).toBeLessThan(65)
    expect(told.sentence).toMatch(/^Grows by jumps of about (9\.9|10)/)
  })
})

describe('what changes', () => {
  test('of two rates the present one counts', () => {
    const some = noise(0.3)
    const told = forecast(daily(180, (day) => 50 + 0.05 * day + 0.95 * Math.max(0, day + 20) + some()))
    // 69 today and one a day.
    expect(median(told)).toBeGreaterThan(26)
    expect(median(told)).toBeLessThan(37)
    const rate = told.seen.find((each) => each.what === 'rate')
    expect(rate?.what === 'rate' && Math.abs(daysTo(rate.atMs) + 20)).toBeLessThan(4)
  })

  test('a quiet store that fills within days is seen from its hours', () => {
    const some = noise(0.1)
    const told = forecast(hourly(40, (day) => 30 + 8 * Math.max(0, day + 2) + some()))
    // 46 today and eight a day: 6.75 days.
    expect(median(told)).toBeGreaterThan(5.5)
    expect(median(told)).toBeLessThan(8)
  })

  test('days that rise each morning are no growth', () => {
    const some = noise(1)
    const told = forecast(
      hourly(30, (day) => 50 + 20 * Math.sin(2 * Math.PI * day) + some(), { line: 90, kind: 'demand' }),
    )
    expect(told.verdict).toBe('not-in-sight')
  })

  test('of a saw the peaks count', () => {
    const some = noise(0.3)
    const saw = (day: number): number => 40 + 0.2 * day + 3 * ((day + 800) % 8)
    const told = forecast(daily(160, (day) => saw(day) + some(), { line: 80 }))
    // Its peaks are 21 above its lowest: 61 today, 80 after 95 days; it is there at a peak.
    expect(told.seen).toContainEqual(expect.objectContaining({ what: 'teeth' }))
    expect(median(told)).toBeGreaterThan(84)
    expect(median(told)).toBeLessThan(106)
  })

  test('capacity that was enlarged changes the past in percent, and not the growth', () => {
    // 400 GB today and two a day; of 1,000 since thirty days ago, of 500 before.
    const used = (day: number): number => 400 + 2 * day
    const capacity = (day: number): number => (day >= -30 ? 1000 : 500)
    const told = forecast(
      daily(120, (day) => (100 * used(day)) / capacity(day), {
        line: 80,
        horizonDays: 400,
        isPercentOfCapacity: true,
        capacity: Float64Array.from({ length: 120 }, (_, index) => capacity(index - 119)),
      }),
    )
    expect(median(told)).toBeCloseTo(200, -1)
    expect(told.seen).toContainEqual(expect.objectContaining({ what: 'capacity', from: 500, to: 1000 }))
  })

  test('a counter goes on after it began anew', () => {
    const told = forecast(
      daily(100, (day) => (day < -40 ? day + 99 : day + 40), { line: 139, isCounter: true, kind: 'written' }),
    )
    // 58 before, 40 since: 98 today (the day of the restart counted nothing), one a day.
    expect(median(told)).toBeGreaterThan(37)
    expect(median(told)).toBeLessThan(45)
    expect(told.seen).toContainEqual(expect.objectContaining({ what: 'reset' }))
  })

  test('wear by whole percents goes by the days on which it changed', () => {
    const told = forecast(daily(300, (day) => Math.floor(80 + 0.1 * day), { line: 90, kind: 'wear' }))
    expect(median(told)).toBeGreaterThan(90)
    expect(median(told)).toBeLessThan(110)
  })

  test('a runtime that follows the load is held against the load of now', () => {
    const load = (day: number): number => 50 + 15 * Math.sin(day / 6)
    const some = noise(0.1)
    const told = forecast(
      daily(200, (day) => (30 - 0.05 * (day + 199) + some()) * (50 / load(day)) ** 1.2, {
        line: 15,
        direction: 'down',
        kind: 'runtime',
        load: Float64Array.from({ length: 200 }, (_, index) => load(index - 199)),
      }),
    )
    // Load is 50 now: 20.05 minutes, a twentieth less each day: 101 days.
    expect(median(told)).toBeGreaterThan(90)
    expect(median(told)).toBeLessThan(112)
  })
})

describe('what cannot be told', () => {
  test('a few days are too little, and it says so', () => {
    const told = forecast(daily(4, (day) => 50 + day))
    expect(told).toMatchObject({ verdict: 'too-little', p50Ms: null })
    expect(told.sentence).toBe('Only 4 days of readings; 7 are needed to tell growth from anything else.')
  })

  test('zeros and outliers of a device that cannot tell are left out, and named', () => {
    const some = noise(0.2)
    const told = forecast(
      daily(120, (day) => (day === -50 ? 0 : day === -20 ? 400 : 60 + 0.5 * day + some())),
    )
    expect(median(told)).toBeCloseTo(80, -1)
    expect(told.seen).toContainEqual({ what: 'outlier', atMs: NOW - 20 * DAY_MS, value: 400 })
  })

  const anything = fc.array(
    fc.oneof(fc.double(), fc.constantFrom(NaN, Infinity, -Infinity, 0, 1e15, -1e15, 1e300, 5), fc.integer()),
    { maxLength: 60 },
  )
  test('whatever the history, an answer comes and nothing is thrown', () => {
    fc.assert(
      fc.property(
        anything,
        fc.constantFrom(0, 100, -5, NaN, 1e15),
        fc.boolean(),
        fc.boolean(),
        (values, line, isUp, isCounter) => {
          const told = forecast(
            daily(values.length, () => 0, {
              values: Float64Array.from(values),
              line,
              isCounter,
              direction: isUp ? 'up' : 'down',
              horizonDays: 60,
            }),
          )
          expect(told.sentence).not.toBe('')
          const [low, middle, high] = [told.p10Ms, told.p50Ms, told.p90Ms].map(daysTo)
          expect(low!).toBeLessThanOrEqual(middle!)
          expect(middle!).toBeLessThanOrEqual(high!)
        },
      ),
      { numRuns: 150 },
    )
  })
})

describe('properties', () => {
  const some = noise(1, 11)
  const values = Array.from({ length: 120 }, (_, index) => 40 + 0.3 * index + some())
  const given = daily(120, (day) => values[day + 119]!)
  const told = forecast(given)

  test('the same input gives the same answer', () => {
    expect(forecast(given)).toEqual(told)
  })

  test('shifting time or scaling values shifts the answer alike', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -1e10, max: 1e10 }),
        fc.double({ min: 1e-3, max: 1e9, noNaN: true }),
        (shift, scale) => {
          const other = forecast({
            ...given,
            atMs: given.atMs.map((at) => at + shift),
            nowMs: NOW + shift,
            values: given.values.map((value) => value * scale),
            line: given.line * scale,
          })
          for (const key of ['p10Ms', 'p50Ms', 'p90Ms'] as const)
            expect(Math.abs(other[key]! - shift - told[key]!)).toBeLessThan(0.02 * DAY_MS)
        },
      ),
      { numRuns: 6 },
    )
  })

  test('more noise never narrows the band', () => {
    for (let seed = 0; seed < 6; seed += 1) {
      const width = (size: number): number => {
        const wild = noise(size, seed)
        const { p10Ms, p90Ms } = forecast(daily(150, (day) => 70 + 0.4 * day + wild()))
        return Math.min(180, daysTo(p90Ms)) - daysTo(p10Ms)
      }
      expect(width(4)).toBeGreaterThan(width(0.4))
    }
  })
})
