import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import {
  bucketCurve,
  type Curve,
  HOUR_MS,
  percentilesOf,
  reduceForDrawing,
  SKETCH_ERROR,
} from '#core/readings'
import { compactPast, sealSettled } from '../jobs/housekeeping.ts'
import type { Db } from '#db/platform'
import {
  aggregate,
  drawing,
  ensurePartitions,
  expireReadings,
  insertMoments,
  latestReadings,
  layoutFor,
  percentiles,
  readDayHours,
  readSpan,
  readSpans,
  sealDay,
  silences,
  unsealedDays,
  valueAt,
  writeRetention,
} from '#db/readings'
import { freshDatabase } from '#db/testing/database'
import { everyLatest } from '#db/testing/latest'
import { newSeries } from '#db/testing/series'

const DAY = 86_400_000
const FIRST_DAY = 20_730 // a multiple of 30
const START = FIRST_DAY * DAY
const MINUTE = 60_000

let db: Db
let drop: () => Promise<void>
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(() => drop())

const bounds = (atMs: number) => ({ now: () => atMs, rest: 0, over: new AbortController().signal })

/** A source with three series, and what was put in, to hold the answers against. */
async function filled(minutes: number, stepMs = MINUTE) {
  const { sourceId, seriesIds } = await newSeries(db, 3)
  const layout = { id: await layoutFor(db, sourceId, seriesIds), seriesIds }
  await ensurePartitions(db, START, START + minutes * stepMs)
  const rows = Array.from({ length: minutes }, (_, index) => {
    const values = [
      Math.round(500 + 300 * Math.sin(index / 90) + 40 * Math.sin(index * 1.7)) / 10,
      index % 50 === 7 ? null : 230.1,
      Math.round(-20 + ((index * 7919) % 1000)) / 100,
    ]
    return { sourceId, atMs: START + index * stepMs, layout, values }
  })
  for (let at = 0; at < rows.length; at += 500) await insertMoments(db, rows.slice(at, at + 500))
  const truth = seriesIds.map((_, slot): Curve => {
    const own = rows.filter((row) => row.values[slot] !== null)
    return {
      times: Float64Array.from(own, (row) => row.atMs),
      values: Float64Array.from(own, (row) => row.values[slot]!),
    }
  })
  return { sourceId, seriesIds, layout, truth, endMs: START + minutes * stepMs }
}
const cut = ({ times, values }: Curve, from: number, to: number): Curve => {
  const keep = [...times.keys()].filter((i) => times[i]! >= from && times[i]! <= to)
  return {
    times: Float64Array.from(keep, (i) => times[i]!),
    values: Float64Array.from(keep, (i) => values[i]!),
  }
}
const whole = (id: number) => readSpan(db, id, START - DAY, START + 400 * DAY)

describe('sealing', () => {
  test('moves settled days into chunks and leaves every answer the same', async () => {
    const { sourceId, seriesIds, truth, endMs } = await filled(2.5 * 1440)
    const before = await readSpans(db, seriesIds, START, endMs)
    const latest = everyLatest(await latestReadings(db, [sourceId]))
    expect(await unsealedDays(db, FIRST_DAY + 2)).toEqual([
      { sourceId, day: FIRST_DAY },
      { sourceId, day: FIRST_DAY + 1 },
    ])
    expect(await sealSettled(db, bounds((FIRST_DAY + 2) * DAY + HOUR_MS))).toBe(2 * 1440)
    expect(
      await sealSettled(db, bounds((FIRST_DAY + 2) * DAY + HOUR_MS)),
      'a second pass finds nothing',
    ).toBe(0)
    const after = await readSpans(db, seriesIds, START, endMs)
    seriesIds.forEach((id, slot) => {
      expect(after.get(id)).toEqual(truth[slot])
      expect(after.get(id)).toEqual(before.get(id))
    })
    expect(everyLatest(await latestReadings(db, [sourceId]))).toEqual(latest)
    const { rows } = {
      rows: await db
        .selectFrom('chunk')
        .select(['day', 'days'])
        .where('seriesId', '=', seriesIds[0]!)
        .execute(),
    }
    expect(rows).toEqual([
      { day: FIRST_DAY, days: 1 },
      { day: FIRST_DAY + 1, days: 1 },
    ])

    await sealSettled(db, bounds(endMs + DAY))
    expect(everyLatest(await latestReadings(db, [sourceId])), 'with everything sealed, too').toEqual(latest)
    const [seriesId, atMs, value] = latest[1]!
    expect((await latestReadings(db)).get(seriesId)).toEqual({ seriesId, atMs, value })
    expect(await whole(seriesIds[0]!)).toEqual(truth[0])
  })

  test('keeps what a source said last, also while something older waits to be sealed', async () => {
    const { sourceId, seriesIds, layout, endMs } = await filled(30)
    await sealSettled(db, bounds(endMs + 2 * DAY))
    const latest = everyLatest(await latestReadings(db, [sourceId]))
    expect(latest[0]![1]).toBe(endMs - MINUTE)
    await ensurePartitions(db, START, START)
    await insertMoments(db, [{ sourceId, atMs: START + 1, layout, values: [1, 2, 3] }])
    expect(everyLatest(await latestReadings(db, [sourceId]))).toEqual(latest)
    await insertMoments(db, [{ sourceId, atMs: endMs, layout, values: [7, null, 9] }])
    const now = everyLatest(await latestReadings(db)).filter(([id]) => seriesIds.includes(id))
    expect(now).toEqual(seriesIds.map((id, slot) => [id, endMs, [7, Number.NaN, 9][slot]]))
  })

  test('takes in what comes late, twice, or different, and keeps what was', async () => {
    const { sourceId, seriesIds, layout, truth, endMs } = await filled(1440)
    await sealSettled(db, bounds(endMs + HOUR_MS))
    const [first] = seriesIds
    await ensurePartitions(db, START, endMs)
    const late = { sourceId, atMs: START + 30_000, layout, values: [1.5, null, null] }
    const twice = {
      sourceId,
      atMs: START,
      layout,
      values: [truth[0]!.values[0]!, truth[1]!.values[0]!, truth[2]!.values[0]!],
    }
    const other = { sourceId, atMs: START + MINUTE, layout, values: [99.9, null, null] }
    await insertMoments(db, [other, late, twice])
    const check = async () => {
      const curve = await whole(first!)
      expect(curve.times.length).toBe(1441)
      expect([...curve.times.slice(0, 3)]).toEqual([START, START + 30_000, START + MINUTE])
      expect([...curve.values.slice(0, 3)]).toEqual([truth[0]!.values[0], 1.5, 99.9])
    }
    await check()
    expect(await sealDay(db, { sourceId, day: FIRST_DAY })).toBe(3)
    await check()
    const corrections = await db
      .selectFrom('correction')
      .select(['was', 'became'])
      .where('seriesId', '=', first!)
      .execute()
    expect(corrections).toEqual([{ was: truth[0]!.values[1], became: 99.9 }])
    const [hour] = (await aggregate(db, first!, { fromMs: START, toMs: START + HOUR_MS, bucketMs: HOUR_MS }))
      .buckets
    expect(hour).toMatchObject({ count: 61, max: 99.9, min: 1.5 })
  })

  test('of a whole day that is sent again changes nothing', async () => {
    const { sourceId, seriesIds, layout, truth, endMs } = await filled(1440)
    await sealSettled(db, bounds(endMs + HOUR_MS))
    await ensurePartitions(db, START, endMs)
    const rows = [...truth[0]!.times].map((atMs, i) => ({
      sourceId,
      atMs,
      layout,
      values: [truth[0]!.values[i]!, null, truth[2]!.values[i]!],
    }))
    await insertMoments(db, rows)
    await sealSettled(db, bounds(endMs + HOUR_MS))
    expect(await whole(seriesIds[0]!)).toEqual(truth[0])
    expect(await whole(seriesIds[2]!)).toEqual(truth[2])
    expect(
      await db.selectFrom('correction').select('id').where('seriesId', 'in', seriesIds).execute(),
    ).toEqual([])
  })

  test('with a clock that went back an hour keeps both hours apart and in order', async () => {
    const { sourceId, seriesIds, layout, endMs } = await filled(600)
    // Going on after the clock was set back: instants half a minute off the first pass.
    const again = Array.from({ length: 120 }, (_, i) => ({
      sourceId,
      atMs: endMs - HOUR_MS + i * MINUTE + 30_000,
      layout,
      values: [i, i, i],
    }))
    await insertMoments(db, again)
    await sealSettled(db, bounds(endMs + DAY))
    const { times } = await whole(seriesIds[0]!)
    expect(times.length).toBe(720)
    expect([...times]).toEqual([...times].sort((a, b) => a - b))
  })

  test('drops the partitions of days that are empty, and a late reading gets a new one', async () => {
    const { sourceId, seriesIds, layout, endMs } = await filled(10)
    await sealSettled(db, bounds(endMs + 5 * DAY))
    expect((await unsealedDays(db, FIRST_DAY + 10)).filter((each) => each.sourceId === sourceId)).toEqual([])
    await expect(
      insertMoments(db, [{ sourceId, atMs: START + 5000, layout, values: [1, 2, 3] }]),
    ).rejects.toThrow(/no partition/)
    await ensurePartitions(db, START, START)
    await insertMoments(db, [{ sourceId, atMs: START + 5000, layout, values: [1, 2, 3] }])
    expect((await whole(seriesIds[0]!)).times.length).toBe(11)
  })

  test('of a day too wide for memory goes in parts, and comes to the same', async () => {
    const { sourceId, seriesIds } = await newSeries(db, 900)
    const layout = { id: await layoutFor(db, sourceId, seriesIds), seriesIds }
    await ensurePartitions(db, START, START)
    const valueAtMinute = (slot: number, minute: number) => slot + Math.round(50 * Math.sin(minute / 60)) / 10
    for (let minute = 0; minute < 1440; minute += 60) {
      const rows = Array.from({ length: 60 }, (_, index) => ({
        sourceId,
        atMs: START + (minute + index) * MINUTE,
        layout,
        values: seriesIds.map((_, slot) => valueAtMinute(slot, minute + index)),
      }))
      await insertMoments(db, rows)
    }
    expect(await sealDay(db, { sourceId, day: FIRST_DAY })).toBe(1440)
    for (const slot of [0, 449, 899]) {
      const { times, values } = await whole(seriesIds[slot]!)
      expect(times.length).toBe(1440)
      expect(values.every((value, minute) => value === valueAtMinute(slot, minute))).toBe(true)
      const [day] = await readDayHours(db, seriesIds[slot]!, FIRST_DAY, FIRST_DAY + 1)
      expect(day?.count).toBe(1440)
    }
  })

  test('of a source that was removed leaves nothing behind', async () => {
    const { sourceId, endMs } = await filled(10)
    await db.deleteFrom('source').where('id', '=', sourceId).execute()
    await sealSettled(db, bounds(endMs + 2 * DAY))
    expect(await db.selectFrom('hot').select('ts').where('sourceId', '=', sourceId).execute()).toEqual([])
  })
})

describe('thirty days put together', () => {
  test('are one chunk with the same readings, and take in late ones', async () => {
    const { sourceId, seriesIds, layout, truth, endMs } = await filled(31 * 144, 10 * MINUTE)
    await sealSettled(db, bounds(endMs + DAY))
    expect(await compactPast(db, bounds(endMs + 3 * DAY))).toBeGreaterThanOrEqual(3)
    const rows = await db
      .selectFrom('chunk')
      .select(['day', 'days'])
      .where('seriesId', '=', seriesIds[0]!)
      .orderBy('day')
      .execute()
    expect(rows).toEqual([
      { day: FIRST_DAY, days: 30 },
      { day: FIRST_DAY + 30, days: 1 },
    ])
    for (const [slot, id] of seriesIds.entries()) expect(await whole(id)).toEqual(truth[slot])
    expect(await readSpan(db, seriesIds[0]!, START + 3 * DAY, START + 4 * DAY)).toEqual(
      cut(truth[0]!, START + 3 * DAY, START + 4 * DAY),
    )

    await ensurePartitions(db, START, START)
    await insertMoments(db, [{ sourceId, atMs: START + 1, layout, values: [42, 42, 42] }])
    await sealSettled(db, bounds(endMs + 3 * DAY))
    const { times, values } = await whole(seriesIds[0]!)
    expect([times.length, times[1], values[1]]).toEqual([truth[0]!.times.length + 1, START + 1, 42])
  })
})

describe('answers, with some days sealed and some not', () => {
  let made: Awaited<ReturnType<typeof filled>>
  beforeAll(async () => {
    made = await filled(4 * 1440)
    await sealSettled(db, bounds((FIRST_DAY + 2) * DAY + HOUR_MS))
    await ensurePartitions(db, START, START)
    // A late one, not sealed yet, in a day that is.
    await insertMoments(db, [
      { sourceId: made.sourceId, atMs: START + HOUR_MS + 1, layout: made.layout, values: [500, null, null] },
    ])
  })
  const truthOf = (slot: number): Curve => {
    const { times, values } = made.truth[slot]!
    if (slot > 0) return { times, values }
    const at = times.findIndex((atMs) => atMs > START + HOUR_MS)
    return {
      times: Float64Array.from([...times.slice(0, at), START + HOUR_MS + 1, ...times.slice(at)]),
      values: Float64Array.from([...values.slice(0, at), 500, ...values.slice(at)]),
    }
  }

  test('raw spans, at random', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: -100, max: 6000 }),
        fc.integer({ min: 0, max: 3000 }),
        async (from, length) => {
          const [a, b] = [START + from * MINUTE, START + (from + length) * MINUTE]
          const all = await readSpans(db, made.seriesIds, a, b)
          made.seriesIds.forEach((id, slot) => {
            expect(all.get(id)).toEqual(cut(truthOf(slot), a, b))
          })
        },
      ),
      { numRuns: 40 },
    )
  })
  test('buckets of whole hours come from hours, others from readings, and both say the truth', async () => {
    for (const bucketMs of [HOUR_MS, 6 * HOUR_MS, DAY, 17 * MINUTE]) {
      const got = await aggregate(db, made.seriesIds[0]!, { fromMs: START, toMs: START + 4 * DAY, bucketMs })
      expect(got.from).toBe(bucketMs === 17 * MINUTE ? 'readings' : 'hours')
      const expected = bucketCurve(truthOf(0), START, bucketMs)
      expect(got.buckets.length).toBe(expected.length)
      got.buckets.forEach((bucket, index) => {
        const { sum, mean, ...rest } = expected[index]!
        expect(bucket).toMatchObject(rest)
        expect(bucket.sum).toBeCloseTo(sum, 6)
        expect(bucket.mean).toBeCloseTo(mean, 9)
      })
    }
    expect(
      (await readDayHours(db, made.seriesIds[2]!, FIRST_DAY, FIRST_DAY + 2)).map((day) => day.count),
    ).toEqual([1440, 1440])
  })
  test('a drawing from readings, and one from hours, keep the extremes', async () => {
    const window = { fromMs: START, toMs: START + 4 * DAY - 1, pixels: 500, longestGapMs: HOUR_MS }
    const fine = await drawing(db, made.seriesIds[0]!, window)
    expect(fine).toMatchObject({ curve: reduceForDrawing(truthOf(0), 500), from: 'readings', gaps: [] })
    const rough = await drawing(db, made.seriesIds[0]!, { ...window, pixels: 20 })
    expect(rough).toMatchObject({ from: 'hours', gaps: [] })
    expect(rough.summary!.mean).toBeCloseTo(fine.summary!.mean, 9)
    expect(rough.summary).toMatchObject({
      min: fine.summary!.min,
      max: fine.summary!.max,
      last: fine.summary!.last,
    })
    expect(rough.curve.times.length).toBeLessThanOrEqual(40)
    const { values } = truthOf(0)
    expect([Math.min(...rough.curve.values), Math.max(...rough.curve.values)]).toEqual([
      Math.min(...values),
      Math.max(...values),
    ])
  })
  test('percentiles, exact and by sketch', async () => {
    const span = { fromMs: START + 5 * MINUTE, toMs: START + 4 * DAY - HOUR_MS, ratios: [0.05, 0.5, 0.95] }
    const exact = await percentiles(db, made.seriesIds, { ...span, exact: true })
    const sketched = await percentiles(db, made.seriesIds, { ...span, exact: false })
    for (const [slot, id] of made.seriesIds.entries()) {
      const truth = cut(truthOf(slot), span.fromMs, span.toMs).values
      expect(exact.bySeries.get(id)).toEqual(percentilesOf(truth.slice(), span.ratios))
      sketched.bySeries.get(id)!.forEach((value, index) => {
        const near = exact.bySeries.get(id)![index]!
        expect(Math.abs(value! - near)).toBeLessThanOrEqual(Math.abs(near) * SKETCH_ERROR + 0.02)
      })
    }
  })
  test('the value at a time, and the spans of silence', async () => {
    const [first] = made.seriesIds
    expect(await valueAt(db, first!, START + 90_000)).toEqual({
      atMs: START + MINUTE,
      value: made.truth[0]!.values[1],
    })
    expect(await valueAt(db, first!, START - 1)).toBeNull()
    expect(await valueAt(db, first!, START + 200 * DAY)).toEqual({
      atMs: made.truth[0]!.times.at(-1),
      value: made.truth[0]!.values.at(-1),
    })
    expect(
      await silences(db, first!, { fromMs: START, toMs: START + 5 * DAY, longestMs: 10 * MINUTE }),
    ).toEqual([{ fromMs: made.truth[0]!.times.at(-1), toMs: START + 5 * DAY }])
  })
})

test('retention deletes by measure what is older, and only that', async () => {
  const { seriesIds, endMs } = await filled(3 * 24, HOUR_MS)
  await sealSettled(db, bounds(endMs + DAY))
  await writeRetention(db, 'hw.fan.speed', { rawDays: 2, summaryDays: 60 })
  const old = await db.selectFrom('series').select(['id', 'measure']).where('id', 'in', seriesIds).execute()
  await expireReadings(db, FIRST_DAY + 3)
  for (const { id, measure } of old) {
    const { times } = await whole(id)
    expect(times[0]).toBe(measure === 'hw.fan.speed' ? START + DAY : START)
    expect(
      (await aggregate(db, id, { fromMs: START, toMs: START + DAY, bucketMs: DAY })).buckets,
    ).toHaveLength(1)
  }
})
