import { statfs } from 'node:fs/promises'
import { sql } from 'kysely'
import type { MeasureKey } from '#core/catalogue'
import type { AgeSpace, MeasureSpace, SpaceShares } from '#core/readings'
import type { Db } from '../platform/connect.ts'
import { dayOf } from './days.ts'

/** What sealed readings of each measure take, largest first. */
async function spaceByMeasure(db: Db): Promise<MeasureSpace[]> {
  const { rows } = await sql<Record<keyof MeasureSpace, string>>`
    select series.measure, count(distinct series.id)::text as series,
      coalesce(sum(c.readings), 0)::text as readings, coalesce(sum(c.bytes), 0)::text as bytes,
      coalesce(sum(s.bytes), 0)::text as "summaryBytes", min(c.first_ms)::text as "firstMs"
    from series
    left join lateral (
      select sum(readings) as readings, sum(length(data) + 60) as bytes, min(first_ms) as first_ms
      from chunk where series_id = series.id
    ) c on true
    left join lateral (
      select sum(length(hours) + length(sketches) + 40) as bytes from summary where series_id = series.id
    ) s on true
    group by series.measure order by sum(c.bytes) desc nulls last, series.measure`.execute(db)
  return rows.map((row) => ({
    measure: row.measure as MeasureKey,
    series: Number(row.series),
    readings: Number(row.readings),
    bytes: Number(row.bytes),
    summaryBytes: Number(row.summaryBytes),
    firstMs: row.firstMs === null ? null : Number(row.firstMs),
  }))
}

/** What sealed readings of each age take, newest period first. */
async function spaceByAge(db: Db): Promise<AgeSpace[]> {
  const { rows } = await sql<{ fromDay: number; readings: string; bytes: string }>`
    select day / 30 * 30 as "fromDay", sum(readings)::text as readings, sum(length(data) + 60)::text as bytes
    from chunk group by 1 order by 1 desc`.execute(db)
  return rows.map(({ fromDay, readings, bytes }) => ({
    fromDay,
    readings: Number(readings),
    bytes: Number(bytes),
  }))
}

/** Looks through everything that is stored: seconds, where that is much. */
async function surveyShares(db: Db, atMs: number): Promise<SpaceShares> {
  const [measures, ages] = await Promise.all([spaceByMeasure(db), spaceByAge(db)])
  return { atMs, measures, ages }
}

/** As they were surveyed last; where nothing was surveyed yet, there is little to look through. */
export async function readShares(db: Db, nowMs: number): Promise<SpaceShares> {
  const row = await db
    .selectFrom('spaceSurvey')
    .select('shares')
    .where('shares', 'is not', null)
    .orderBy('day', 'desc')
    .limit(1)
    .executeTakeFirst()
  return row?.shares ?? surveyShares(db, nowMs)
}

export interface TableSpace {
  /** Rows that are not sealed yet. */
  readonly hotBytes: number
  readonly chunkBytes: number
  readonly summaryBytes: number
  readonly otherBytes: number
}

/** What lies on disk, indexes and all. */
export async function spaceOfTables(db: Db): Promise<TableSpace> {
  const { rows } = await sql<Record<'hot' | 'chunk' | 'summary' | 'whole', string>>`
    select
      (select coalesce(sum(pg_total_relation_size(inhrelid)), 0) from pg_inherits where inhparent = 'hot'::regclass)::text as hot,
      pg_total_relation_size('chunk')::text as chunk,
      pg_total_relation_size('summary')::text as summary,
      pg_database_size(current_database())::text as whole`.execute(db)
  const [hotBytes, chunkBytes, summaryBytes, whole] = (['hot', 'chunk', 'summary', 'whole'] as const).map(
    (name) => Number(rows[0]![name]),
  ) as [number, number, number, number]
  return { hotBytes, chunkBytes, summaryBytes, otherBytes: whole - hotBytes - chunkBytes - summaryBytes }
}

export interface Survey {
  readonly day: number
  readonly databaseBytes: number
  /** On the disk of the data folder; `null` when it could not be asked. */
  readonly freeBytes: number | null
}

/** The disk under a folder, in bytes; what is kept for the system alone counts as used. `null` when it cannot be asked. */
export async function diskUnder(
  folder: string,
): Promise<{ readonly usedBytes: number; readonly sizeBytes: number } | null> {
  const disk = await statfs(folder).catch(() => null)
  if (disk === null) return null
  return { usedBytes: (disk.blocks - disk.bavail) * disk.bsize, sizeBytes: disk.blocks * disk.bsize }
}

/** Notes the size of today and who takes it; of several notes of a day the last one stands. */
export async function surveySpace(db: Db, folder: string, nowMs: number): Promise<Survey> {
  const day = dayOf(nowMs)
  const { rows } = await sql<{
    size: string
  }>`select pg_database_size(current_database())::text as size`.execute(db)
  const disk = await diskUnder(folder)
  const freeBytes = disk === null ? null : disk.sizeBytes - disk.usedBytes
  const survey = {
    day,
    databaseBytes: rows[0]!.size,
    freeBytes: freeBytes === null ? null : String(freeBytes),
    shares: JSON.stringify(await surveyShares(db, nowMs)),
  }
  await db
    .insertInto('spaceSurvey')
    .values(survey)
    .onConflict((conflict) => conflict.column('day').doUpdateSet(survey))
    .execute()
  return {
    day,
    databaseBytes: Number(survey.databaseBytes),
    freeBytes,
  }
}

/** Surveys of the last days, oldest first. */
export async function listSurveys(db: Db, sinceDay: number): Promise<Survey[]> {
  const rows = await db
    .selectFrom('spaceSurvey')
    .select(['day', 'databaseBytes', 'freeBytes'])
    .where('day', '>=', sinceDay)
    .orderBy('day')
    .execute()
  return rows.map(({ day, databaseBytes, freeBytes }) => ({
    day,
    databaseBytes: Number(databaseBytes),
    freeBytes: freeBytes === null ? null : Number(freeBytes),
  }))
}

/** How many readings a day come in at the intervals that are set. */
export async function expectedReadingsADay(db: Db): Promise<number> {
  const { rows } = await sql<{ readings: string | null }>`
    select sum(86400.0 / source.interval_seconds * cardinality(newest.series_ids))::text as readings from source
    cross join lateral (select series_ids from layout where source_id = source.id order by id desc limit 1) newest`.execute(
    db,
  )
  return Number(rows[0]!.readings ?? 0)
}

/** What shorter retention of a measure would free now, bytes. */
export async function bytesOlderThan(
  db: Db,
  measure: MeasureKey,
  retention: { rawDays: number; summaryDays: number },
  today: number,
): Promise<number> {
  const { rows } = await sql<{ bytes: string }>`
    select (coalesce((
      select sum(length(data) + 60) from chunk join series on series.id = chunk.series_id
      where series.measure = ${measure} and day + days <= ${today - retention.rawDays}
    ), 0) + coalesce((
      select sum(length(hours) + length(sketches) + 40) from summary join series on series.id = summary.series_id
      where series.measure = ${measure} and (period + 1) * 30 <= ${today - retention.summaryDays}
    ), 0))::text as bytes`.execute(db)
  return Number(rows[0]!.bytes)
}

/** Has what is older than its retention deleted now, not at night. */
export async function expireSoon(trx: Db): Promise<void> {
  await sql`select graphile_worker.add_job('expire', '{}'::json, job_key := 'expire now')`.execute(trx)
}

/** Has the space surveyed anew now, and not at the full hour. */
export async function surveySoon(db: Db): Promise<void> {
  await sql`select graphile_worker.add_job('survey', '{}'::json, job_key := 'survey now')`.execute(db)
}
