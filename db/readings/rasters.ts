import { sql } from 'kysely'
import {
  bucketHours,
  heldRow,
  type Hours,
  hoursOf,
  isOfHours,
  NO_HOURS,
  type Raster,
  replaceHours,
  type Row,
  rowOfCurve,
  rowOfHours,
  summarize,
  type Summary,
} from '#core/readings'
import type { Db } from '../platform/connect.ts'
import { DAY_MS } from './days.ts'
import type { Made } from './queries.ts'
import { readSpans } from './spans.ts'
import { readHours } from './summaries.ts'

/** What is heard less often than that is a gap, unless it always is. */
const SHORTEST_GAP_MS = 180_000

/** Several series gathered into the columns of one raster. */
export interface Rastered {
  readonly rows: ReadonlyMap<number, Row>
  /** Of everything in the window; of a series without readings nothing. */
  readonly summaries: ReadonlyMap<number, Summary>
  readonly from: Made
}

/**
 * Many series at once, column by column: from hours where the raster is one of whole hours, else from readings. Both ends
 * are widened to whole columns.
 */
export async function rasters(db: Db, seriesIds: readonly number[], raster: Raster): Promise<Rastered> {
  const { fromMs, stepMs, columns } = raster
  const toMs = fromMs + columns * stepMs
  const rows = new Map<number, Row>()
  const summaries = new Map<number, Summary>()
  if (!isOfHours(raster)) {
    for (const [id, curve] of await readSpans(db, seriesIds, fromMs, toMs - 1)) {
      rows.set(id, heldRow(rowOfCurve(curve, raster), curve.times, raster, SHORTEST_GAP_MS))
      const summary = summarize(curve.values)
      if (summary !== null) summaries.set(id, summary)
    }
    return { rows, summaries, from: 'readings' }
  }
  for (const [id, hours] of await hoursOfMany(db, seriesIds, fromMs, toMs)) {
    rows.set(id, rowOfHours(hours, raster))
    const [all] = bucketHours(hours, fromMs, toMs - fromMs)
    if (all !== undefined) summaries.set(id, all)
  }
  return { rows, summaries, from: 'hours' }
}

/** Hours of many series over a span of whole hours, sealed or not. */
export async function hoursOfMany(
  db: Db,
  seriesIds: readonly number[],
  fromMs: number,
  toMs: number,
): Promise<Map<number, Hours>> {
  return db
    .transaction()
    .setIsolationLevel('repeatable read')
    .execute(async (trx) => {
      const all = await readHours(trx, seriesIds, fromMs, toMs)
      const sources = await trx
        .selectFrom('series')
        .select(['id', 'sourceId'])
        .where(sql<boolean>`id = any(${[...seriesIds]}::int[])`)
        .execute()
      const days = await unsealedDays(
        trx,
        [...new Set(sources.map(({ sourceId }) => sourceId))],
        fromMs,
        toMs,
      )
      for (const [day, sourceIds] of days) {
        const own = sources.filter(({ sourceId }) => sourceIds.has(sourceId)).map(({ id }) => id)
        const [start, end] = [Math.max(fromMs, day * DAY_MS), Math.min(toMs, (day + 1) * DAY_MS)]
        // A day with rows that came late is summed up from all of its readings.
        for (const [id, curve] of await readSpans(trx, own, start, end - 1))
          all.set(id, replaceHours(all.get(id) ?? NO_HOURS, hoursOf(curve), start, end))
      }
      return all
    })
}

/** Which days of which sources have rows that are not sealed, the first day first. */
async function unsealedDays(
  trx: Db,
  sourceIds: readonly number[],
  fromMs: number,
  toMs: number,
): Promise<Map<number, Set<number>>> {
  const { rows } = await sql<{ day: number; sourceId: number }>`
    with recursive step (source_id, ts) as (
      select source.id, (select hot.ts from hot where hot.source_id = source.id
        and hot.ts >= ${new Date(fromMs)} and hot.ts < ${new Date(toMs)} order by hot.ts limit 1)
      from unnest(${[...sourceIds]}::int[]) as source (id)
      union all
      select step.source_id, (select hot.ts from hot where hot.source_id = step.source_id
        and hot.ts >= date_trunc('day', step.ts, 'UTC') + interval '1 day' and hot.ts < ${new Date(toMs)}
        order by hot.ts limit 1)
      from step where step.ts is not null
    ) select floor(extract(epoch from ts) / 86400)::int as day, source_id as "sourceId"
      from step where ts is not null order by 1`.execute(trx)
  const days = new Map<number, Set<number>>()
  for (const { day, sourceId } of rows) days.set(day, (days.get(day) ?? new Set()).add(sourceId))
  return days
}
