import { sql } from 'kysely'
import { decodeChunk, joinCurves } from '#core/readings'
import { type Db, within } from '../platform/connect.ts'
import { lockChunks, writeChunks } from './chunks.ts'
import { PERIOD_DAYS } from './days.ts'
import { lockSource } from './seal.ts'
import { deflate } from './squeezer.ts'

export interface SeriesPeriod {
  readonly sourceId: number
  readonly seriesId: number
  /** The first day of the thirty. */
  readonly day: number
}

/** Series with more than one chunk in a period that ended before `beforeDay`. */
export async function periodsToCompact(db: Db, beforeDay: number, most: number): Promise<SeriesPeriod[]> {
  const { rows } = await sql<SeriesPeriod>`
    select series.source_id as "sourceId", series_id as "seriesId", day / ${PERIOD_DAYS}::int * ${PERIOD_DAYS}::int as day
    from chunk join series on series.id = chunk.series_id
    where days = 1 and (day / ${PERIOD_DAYS}::int + 1) * ${PERIOD_DAYS}::int <= ${beforeDay}
    group by 1, 2, 3 order by 3, 1, 2 limit ${most}`.execute(db)
  return rows
}

/** Puts the chunks of one series and period into one, in one transaction. */
export async function compactPeriod(db: Db, { sourceId, seriesId, day }: SeriesPeriod): Promise<void> {
  await within(db, async (trx) => {
    await lockSource(trx, sourceId)
    const chunks = await lockChunks(trx, [seriesId], day, day + PERIOD_DAYS - 1)
    if (chunks.length === 0) return
    const curve = joinCurves(chunks.map((chunk) => decodeChunk(chunk.data, deflate)))
    const days = chunks.map((chunk) => chunk.day)
    await sql`delete from chunk where series_id = ${seriesId} and day = any(${days}::int[])`.execute(trx)
    await writeChunks(trx, [{ seriesId, day, days: PERIOD_DAYS, curve }])
  })
}
