import { sql } from 'kysely'
import {
  type Bucket,
  bucketCurve,
  bucketHours,
  type Curve,
  decodeChunk,
  findGaps,
  type Gap,
  HOUR_MS,
  type Hours,
  hoursBetween,
  hoursOf,
  joinHours,
  NO_READINGS,
  NO_HOURS,
  percentilesOf,
  reduceForDrawing,
  reduceHours,
  Sketch,
  summarize,
  type Summary,
} from '#core/readings'
import type { Db } from '../platform/connect.ts'
import { DAY_MS, dayOf } from './days.ts'
import { readSpan, readSpans, visitNumbers } from './spans.ts'
import { deflate } from './squeezer.ts'
import { addSketches, readHours } from './summaries.ts'

/** What an answer was made of: every reading, or summaries of hours or days. */
export type Made = 'readings' | 'hours' | 'days'

export interface Drawn {
  readonly curve: Curve
  readonly from: Made
  /** Of everything in the window, not of what is drawn. */
  readonly summary: Summary | null
  readonly gaps: readonly Gap[]
}

/** From this pixel width on a chart is drawn from hours. */
const HOURS_A_PIXEL = 3

/** Of what a curve is drawn. `longestGapMs`: what is further apart is a gap; at least two hours where hours are drawn. */
export interface DrawnSeries {
  readonly id: number
  readonly longestGapMs: number
}

/**
 * Curves of at most two points a pixel, the true minimum and maximum of each, in the order of the series. Wide windows are
 * drawn from hours, where a pixel then covers whole hours; what is not sealed yet is summed up on the way.
 */
export async function drawings(
  db: Db,
  series: readonly DrawnSeries[],
  window: { readonly fromMs: number; readonly toMs: number; readonly pixels: number },
): Promise<Drawn[]> {
  const { fromMs, toMs, pixels } = window
  if ((toMs - fromMs) / pixels >= HOURS_A_PIXEL * HOUR_MS)
    return Promise.all(series.map((each) => drawnFromHours(db, each, window)))
  const spans = await readSpans(
    db,
    series.map(({ id }) => id),
    fromMs,
    toMs,
  )
  return series.map(({ id, longestGapMs }) => {
    const whole = spans.get(id) ?? NO_READINGS
    return {
      curve: reduceForDrawing(whole, pixels),
      from: 'readings',
      summary: summarize(whole.values),
      gaps: findGaps(whole.times, longestGapMs, toMs),
    }
  })
}

/** The curve of one series. */
export async function drawing(
  db: Db,
  id: number,
  { longestGapMs, ...window }: { fromMs: number; toMs: number; pixels: number; longestGapMs: number },
): Promise<Drawn> {
  const [drawn] = await drawings(db, [{ id, longestGapMs }], window)
  return drawn!
}

async function drawnFromHours(
  db: Db,
  { id, longestGapMs }: DrawnSeries,
  { fromMs, toMs, pixels }: { readonly fromMs: number; readonly toMs: number; readonly pixels: number },
): Promise<Drawn> {
  const hours = await allHours(db, id, fromMs, toMs)
  const [all] = bucketHours(hours, hours.times[0] ?? 0, 400 * DAY_MS)
  return {
    curve: reduceHours(hours, pixels),
    from: 'hours',
    summary: all ?? null,
    gaps: findGaps(hours.times, Math.max(2 * HOUR_MS, longestGapMs), toMs),
  }
}

/** Hours of a series over a span, sealed or not. The two ends are widened to whole hours. */
async function allHours(db: Db, seriesId: number, fromMs: number, toMs: number): Promise<Hours> {
  const [from, to] = [Math.floor(fromMs / HOUR_MS) * HOUR_MS, Math.ceil(toMs / HOUR_MS) * HOUR_MS]
  // One statement sees what is sealed, another what is not; in one snapshot nothing is between the two.
  return db
    .transaction()
    .setIsolationLevel('repeatable read')
    .execute(async (trx) => {
      const sealed = (await readHours(trx, [seriesId], from, to)).get(seriesId) ?? NO_HOURS
      const days = await unsealedDaysOf(trx, seriesId, from, to)
      if (days.length === 0) return sealed
      const parts: Hours[] = []
      let at = from
      for (const day of days) {
        const [start, end] = [Math.max(from, day * DAY_MS), Math.min(to, (day + 1) * DAY_MS)]
        parts.push(hoursBetween(sealed, at, start))
        // A day with rows that came late is summed up from all of its readings.
        parts.push(hoursOf(await readSpan(trx, seriesId, start, end - 1)))
        at = end
      }
      return joinHours([...parts, hoursBetween(sealed, at, to)])
    })
}

/** Days of the source of a series that still have rows which are not sealed. */
async function unsealedDaysOf(trx: Db, seriesId: number, fromMs: number, toMs: number): Promise<number[]> {
  const { rows } = await sql<{ day: number }>`
    with recursive step (ts) as (
      (select hot.ts from hot join series on series.source_id = hot.source_id
        where series.id = ${seriesId} and hot.ts >= ${new Date(fromMs)} and hot.ts < ${new Date(toMs)} order by hot.ts limit 1)
      union all
      select (select hot.ts from hot join series on series.source_id = hot.source_id
        where series.id = ${seriesId} and hot.ts >= date_trunc('day', step.ts, 'UTC') + interval '1 day' and hot.ts < ${new Date(toMs)}
        order by hot.ts limit 1)
      from step where step.ts is not null
    ) select floor(extract(epoch from ts) / 86400)::int as day from step where ts is not null`.execute(trx)
  return rows.map((row) => row.day)
}

export interface Aggregated {
  readonly buckets: readonly Bucket[]
  readonly from: Made
}

/** Count, least, most, mean, sum and last of each bucket of a span; whole hours come from the summaries. */
export async function aggregate(
  db: Db,
  seriesId: number,
  span: { fromMs: number; toMs: number; bucketMs: number },
): Promise<Aggregated> {
  const { fromMs, toMs, bucketMs } = span
  if (!(bucketMs > 0)) throw new RangeError(`a bucket of ${bucketMs} ms is none`)
  const isWhole = [fromMs, toMs, bucketMs].every((each) => each % HOUR_MS === 0)
  if (isWhole) {
    return {
      buckets: bucketHours(await allHours(db, seriesId, fromMs, toMs), fromMs, bucketMs),
      from: 'hours',
    }
  }
  return {
    buckets: bucketCurve(await readSpan(db, seriesId, fromMs, toMs - 1), fromMs, bucketMs),
    from: 'readings',
  }
}

export interface Percentiles {
  readonly bySeries: ReadonlyMap<number, readonly (number | null)[]>
  /** The share of readings beyond the line, 0..1; empty where no line was given. */
  readonly beyond: ReadonlyMap<number, number>
  readonly from: Made
}

/**
 * Percentiles of several series over a span, both ends included. `exact` looks at every reading and interpolates
 * (SQL:2003 `PERCENTILE_CONT`); otherwise whole sealed days come from sketches, at most 2 % off the nearest rank.
 * @param ratios 0..1
 */
export async function percentiles(
  db: Db,
  seriesIds: readonly number[],
  span: {
    fromMs: number
    toMs: number
    ratios: readonly number[]
    exact: boolean
    line?: { readonly at: number; readonly direction: 'above' | 'below' } | null
  },
): Promise<Percentiles> {
  const { fromMs, toMs, ratios, exact, line = null } = span
  const beyond = new Map<number, number>()
  if (exact) {
    const bySeries = new Map<number, readonly (number | null)[]>()
    await visitNumbers(db, seriesIds, span, (id, numbers) => {
      if (line !== null && numbers.length > 0) beyond.set(id, shareBeyond(numbers, line))
      bySeries.set(id, percentilesOf(numbers, ratios))
    })
    return { bySeries, beyond, from: 'readings' }
  }
  return db
    .transaction()
    .setIsolationLevel('repeatable read')
    .execute(async (trx) => {
      const sketches = new Map(seriesIds.map((id) => [id, new Sketch()]))
      const [first, last] = [Math.ceil(fromMs / DAY_MS), dayOf(toMs + 1)]
      const hot = await oldestUnsealedDay(trx, seriesIds, fromMs)
      // Whole days before anything that is not sealed; the two ends by their readings.
      const until = Math.max(first, Math.min(last, hot ?? last))
      await addSketches(trx, sketches, first, until)
      const edges: [number, number][] =
        until <= first
          ? [[fromMs, toMs]]
          : [
              [fromMs, first * DAY_MS - 1],
              [until * DAY_MS, toMs],
            ]
      for (const [from, to] of edges.filter(([from, to]) => from <= to)) {
        for (const [id, { values }] of await readSpans(trx, seriesIds, from, to))
          sketches.get(id)!.addAll(values)
      }
      const bySeries = new Map(
        [...sketches].map(([id, sketch]) => [id, ratios.map((ratio) => sketch.percentile(ratio))]),
      )
      if (line !== null)
        for (const [id, sketch] of sketches) {
          const share = line.direction === 'above' ? sketch.shareAbove(line.at) : sketch.shareBelow(line.at)
          if (share !== null) beyond.set(id, share)
        }
      return { bySeries, beyond, from: until > first ? ('days' as const) : ('readings' as const) }
    })
}

function shareBeyond(
  numbers: Float64Array,
  { at, direction }: { readonly at: number; readonly direction: 'above' | 'below' },
): number {
  let count = 0
  for (let index = 0; index < numbers.length; index += 1)
    if (direction === 'above' ? numbers[index]! > at : numbers[index]! < at) count += 1
  return count / numbers.length
}

async function oldestUnsealedDay(
  trx: Db,
  seriesIds: readonly number[],
  fromMs: number,
): Promise<number | null> {
  const { rows } = await sql<{ day: number | null }>`
    select floor(extract(epoch from min(oldest.ts)) / 86400)::int as day
    from (select distinct source_id from series where id = any(${[...seriesIds]}::int[])) s
    cross join lateral (
      select ts from hot where hot.source_id = s.source_id and ts >= ${new Date(fromMs)} order by ts limit 1
    ) oldest`.execute(trx)
  return rows[0]?.day ?? null
}

/** The last reading at or before an instant, or `null` when there is none. */
export async function valueAt(
  db: Db,
  seriesId: number,
  atMs: number,
): Promise<{ atMs: number; value: number } | null> {
  const unsealed = await oldestUnsealedDay(db, [seriesId], 0)
  const from = Math.min((unsealed ?? Infinity) * DAY_MS, atMs - DAY_MS)
  const lately = await readSpan(db, seriesId, from, atMs)
  if (lately.times.length > 0) return { atMs: lately.times.at(-1)!, value: lately.values.at(-1)! }
  const row = await db
    .selectFrom('chunk')
    .select('data')
    .where('seriesId', '=', seriesId)
    .where('firstMs', '<=', String(atMs))
    .orderBy('day', 'desc')
    .limit(1)
    .executeTakeFirst()
  if (row === undefined) return null
  const { times, values } = decodeChunk(row.data, deflate, -Infinity, atMs)
  return { atMs: times.at(-1)!, value: values.at(-1)! }
}

/** Spans of a window in which nothing was heard for longer than `longestMs`, its open end included. */
export async function silences(
  db: Db,
  seriesId: number,
  span: { fromMs: number; toMs: number; longestMs: number },
): Promise<Gap[]> {
  const { times } = await readSpan(db, seriesId, span.fromMs, span.toMs)
  return findGaps(times, span.longestMs, span.toMs)
}

/** What was in a state within this time is remembered to have been. */
const REMEMBERED_MS = 60 * 24 * HOUR_MS

/** Whether a series was in a state at any time that is remembered, by the summaries of its hours. */
export async function hasBeenIn(db: Db, seriesId: number, state: number, atMs: number): Promise<boolean> {
  const toMs = Math.ceil(atMs / HOUR_MS) * HOUR_MS
  const { buckets } = await aggregate(db, seriesId, {
    fromMs: toMs - REMEMBERED_MS,
    toMs,
    bucketMs: REMEMBERED_MS,
  })
  return buckets.some(({ count, min, max }) => count > 0 && min <= state && state <= max)
}
