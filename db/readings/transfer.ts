import { sql } from 'kysely'
import { type MeasureKey } from '#core/catalogue'
import { type Curve, cut } from '#core/readings'
import { type Db, within } from '../platform/connect.ts'
import { DAY_MS, dayOf } from './days.ts'
import { lockSource, sealSeries } from './seal.ts'
import { readSpan } from './spans.ts'

/** A series by what people call it. */
export interface NamedSeries {
  readonly id: number
  readonly sourceId: number
  readonly gear: string
  readonly part: string | null
  readonly measure: MeasureKey
}

const SLICE_MS = 30 * DAY_MS

/** Series with their names, by measure, gear and part; all of them when no ids are given. */
export async function listNamedSeries(db: Db, ids?: readonly number[]): Promise<NamedSeries[]> {
  const query = db
    .selectFrom('series')
    .innerJoin('gear', 'gear.id', 'series.gearId')
    .leftJoin('part', 'part.id', 'series.partId')
    .select(['series.id', 'series.sourceId', 'gear.name as gear', 'part.name as part', 'series.measure'])
    .orderBy('series.measure')
    .orderBy('gear.name')
    .orderBy('part.name')
    .orderBy('series.id')
  return (ids === undefined ? query : query.where('series.id', 'in', [0, ...ids])).execute()
}

/** The readings of a series over a span in slices of at most thirty days, so that any span fits into memory. */
export async function* readSlices(
  db: Db,
  seriesId: number,
  fromMs: number,
  toMs: number,
): AsyncGenerator<Curve> {
  const { rows } = await sql<{ first: string | null; last: string | null }>`
    select least(min(first_ms), (
        select (extract(epoch from min(hot.ts)) * 1000)::bigint from hot join series on series.source_id = hot.source_id where series.id = ${seriesId}
      ))::text as first, greatest(max(last_ms), (
        select (extract(epoch from max(hot.ts)) * 1000)::bigint from hot join series on series.source_id = hot.source_id where series.id = ${seriesId}
      ))::text as last from chunk where series_id = ${seriesId}`.execute(db)
  const { first, last } = rows[0]!
  if (first === null || last === null) return
  const end = Math.min(toMs, Number(last))
  for (let at = Math.max(fromMs, Number(first)); at <= end; at += SLICE_MS) {
    const curve = await readSpan(db, seriesId, at, Math.min(end, at + SLICE_MS - 1))
    if (curve.times.length > 0) yield curve
  }
}

/**
 * Puts readings from outside into a series, each day in one transaction. An instant that is there already is one
 * reading; where its value differs the new one stands, and the old one is kept as a correction.
 * @param curve ascending instants
 */
export async function mergeReadings(
  db: Db,
  series: Pick<NamedSeries, 'id' | 'sourceId'>,
  curve: Curve,
): Promise<void> {
  if (curve.times.length === 0) return
  for (let day = dayOf(curve.times[0]!); day <= dayOf(curve.times.at(-1)!); day += 1) {
    const own = cut(curve, day * DAY_MS, (day + 1) * DAY_MS - 1)
    if (own.times.length === 0) continue
    await within(db, async (trx) => {
      await lockSource(trx, series.sourceId)
      // Unlike what is only moved about, this is nowhere else yet.
      await sql`set local synchronous_commit = on`.execute(trx)
      await sealSeries(trx, day, new Map([[series.id, own]]))
    })
  }
}
