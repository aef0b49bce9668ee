import { sql } from 'kysely'
import type { MeasureKey } from '#core/catalogue'
import type { Db } from '../platform/connect.ts'
import { PERIOD_DAYS } from './days.ts'

/** How long readings of a measure are kept, and how long their summaries. */
export interface Retention {
  readonly rawDays: number
  readonly summaryDays: number
}

/** A year of unaltered readings, five years of summaries. */
export const DEFAULT_RETENTION: Retention = { rawDays: 366, summaryDays: 1830 }

export async function listRetention(db: Db): Promise<Map<MeasureKey, Retention>> {
  const rows = await db.selectFrom('retention').selectAll().execute()
  return new Map(rows.map(({ measure, rawDays, summaryDays }) => [measure, { rawDays, summaryDays }]))
}

export async function writeRetention(db: Db, measure: MeasureKey, retention: Retention): Promise<void> {
  await db
    .insertInto('retention')
    .values({ measure, ...retention })
    .onConflict((conflict) => conflict.column('measure').doUpdateSet(retention))
    .execute()
}

/**
 * Deletes what is older than its measure's retention: chunks whose every reading is, and summaries. A chunk of thirty
 * days goes when its last day does.
 */
export async function expireReadings(db: Db, today: number): Promise<{ chunks: number; summaries: number }> {
  const { rawDays, summaryDays } = DEFAULT_RETENTION
  const chunks = await sql`
    delete from chunk using series left join retention on retention.measure = series.measure
    where series.id = chunk.series_id
      and chunk.day + chunk.days <= ${today}::int - coalesce(retention.raw_days, ${rawDays}::int)`.execute(db)
  const summaries = await sql`
    delete from summary using series left join retention on retention.measure = series.measure
    where series.id = summary.series_id
      and (summary.period + 1) * ${PERIOD_DAYS}::int <= ${today}::int - coalesce(retention.summary_days, ${summaryDays}::int)`.execute(
    db,
  )
  return { chunks: Number(chunks.numAffectedRows ?? 0n), summaries: Number(summaries.numAffectedRows ?? 0n) }
}
