import { sql } from 'kysely'
import {
  addDays,
  type Bucket,
  bucketHours,
  type Curve,
  decodeHours,
  decodeSketches,
  encodeHours,
  encodeSketches,
  type Hours,
  hoursBetween,
  hoursOf,
  joinHours,
  lowerBound,
  NO_HOURS,
  replaceHours,
  type Sketch,
  sketchBytes,
} from '#core/readings'
import type { Db } from '../platform/connect.ts'
import { DAY_MS, dayOf, periodOf } from './days.ts'
import { deflate } from './squeezer.ts'

/** All readings of one day of a series; the curve may reach beyond the day. */
export interface DayOfSeries {
  readonly seriesId: number
  readonly day: number
  readonly curve: Curve
}

/** Makes the summaries of some days anew. Several days of one series and period are welcome. */
export async function updateSummaries(trx: Db, days: readonly DayOfSeries[]): Promise<void> {
  const keys = [
    ...new Map(
      days.map(({ seriesId, day }) => [`${seriesId} ${periodOf(day)}`, { seriesId, period: periodOf(day) }]),
    ).values(),
  ]
  const { rows } = await sql<{ seriesId: number; period: number; hours: Buffer; sketches: Buffer }>`
    select series_id as "seriesId", period, hours, sketches from summary
    where (series_id, period) in (select * from unnest(
      ${keys.map((key) => key.seriesId)}::int[], ${keys.map((key) => key.period)}::int[]))
    order by series_id, period for update`.execute(trx)
  const kept = new Map(rows.map((row) => [`${row.seriesId} ${row.period}`, row]))
  const written = keys.map(({ seriesId, period }) => {
    const row = kept.get(`${seriesId} ${period}`)
    let hours = row === undefined ? NO_HOURS : decodeHours(row.hours, deflate)
    const sketches = row === undefined ? new Map<number, Uint8Array>() : decodeSketches(row.sketches)
    for (const each of days) {
      if (each.seriesId !== seriesId || periodOf(each.day) !== period) continue
      const [from, to] = [each.day * DAY_MS, (each.day + 1) * DAY_MS]
      const [start, end] = [lowerBound(each.curve.times, from), lowerBound(each.curve.times, to)]
      const own = {
        times: each.curve.times.subarray(start, end),
        values: each.curve.values.subarray(start, end),
      }
      hours = replaceHours(hours, hoursOf(own), from, to)
      sketches.set(each.day, sketchBytes(own.values))
    }
    return { seriesId, period, hours: encodeHours(hours, deflate), sketches: encodeSketches(sketches) }
  })
  await sql`
    insert into summary (series_id, period, hours, sketches)
    select * from unnest(
      ${written.map((row) => row.seriesId)}::int[],
      ${written.map((row) => row.period)}::int[],
      ${written.map((row) => Buffer.from(row.hours))}::bytea[],
      ${written.map((row) => Buffer.from(row.sketches))}::bytea[])
    on conflict (series_id, period) do update set hours = excluded.hours, sketches = excluded.sketches`.execute(
    trx,
  )
}

/** The sealed hours of some series from one instant up to, not with, another. */
export async function readHours(
  db: Db,
  seriesIds: readonly number[],
  fromMs: number,
  toMs: number,
): Promise<Map<number, Hours>> {
  const { rows } = await sql<{ seriesId: number; hours: Buffer }>`
    select series_id as "seriesId", hours from summary
    where series_id = any(${[...seriesIds]}::int[]) and period between ${periodOf(dayOf(fromMs))} and ${periodOf(dayOf(toMs))}
    order by series_id, period`.execute(db)
  const parts = new Map<number, Hours[]>(seriesIds.map((id) => [id, []]))
  for (const { seriesId, hours } of rows) parts.get(seriesId)?.push(decodeHours(hours, deflate))
  return new Map([...parts].map(([id, each]) => [id, hoursBetween(joinHours(each), fromMs, toMs)]))
}

/** The sealed days of one series as summaries; a day is made of its hours. */
export async function readDayHours(
  db: Db,
  seriesId: number,
  fromDay: number,
  toDay: number,
): Promise<Bucket[]> {
  const hours = await readHours(db, [seriesId], fromDay * DAY_MS, toDay * DAY_MS)
  return bucketHours(hours.get(seriesId) ?? NO_HOURS, fromDay * DAY_MS, DAY_MS)
}

/** Adds the sketches of whole days, from `fromDay` up to not with `toDay`, to one sketch a series. */
export async function addSketches(
  db: Db,
  sketches: ReadonlyMap<number, Sketch>,
  fromDay: number,
  toDay: number,
): Promise<void> {
  if (toDay <= fromDay) return
  const { rows } = await sql<{ seriesId: number; sketches: Buffer }>`
    select series_id as "seriesId", sketches from summary
    where series_id = any(${[...sketches.keys()]}::int[])
      and period between ${periodOf(fromDay)} and ${periodOf(toDay - 1)}`.execute(db)
  for (const row of rows) addDays(sketches.get(row.seriesId)!, row.sketches, fromDay, toDay)
}
