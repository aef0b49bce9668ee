import { sql } from 'kysely'
import { type Curve, decodeChunk, mergeCurves, NO_READINGS, readSlot } from '#core/readings'
import { type Db, within } from '../platform/connect.ts'
import { lockChunks, type NewChunk, writeChunks } from './chunks.ts'
import { type CorrectedReading, recordCorrections } from './corrections.ts'
import { DAY_MS } from './days.ts'
import { deflate } from './squeezer.ts'
import { type DayOfSeries, updateSummaries } from './summaries.ts'

/** Sealing, merging and expiring of one source exclude each other. */
const SOURCE_LOCK = 7_302
/** Of rows that are sealed in one transaction. They come as text, twice the size, and become arrays, twice the size again. */
const MOST_BYTES = 8 * 1024 * 1024
/** Series whose chunks are read, merged and written together. */
const TOGETHER = 64

/**
 * Begins moving readings of a source about. The commit need not wait for the disk: should it be lost, everything is as it
 * was before, and those who store meanwhile are not held up by it.
 */
export async function lockSource(trx: Db, sourceId: number): Promise<void> {
  await sql`set local synchronous_commit = off`.execute(trx)
  await sql`select pg_advisory_xact_lock(${SOURCE_LOCK}, ${sourceId})`.execute(trx)
}

export interface SourceDay {
  readonly sourceId: number
  readonly day: number
}

/** Days before `beforeDay` that still have rows, source by source, oldest first. */
export async function unsealedDays(db: Db, beforeDay: number): Promise<SourceDay[]> {
  const { rows: partitions } = await sql<{ name: string }>`
    select child.relname as name from pg_inherits join pg_class child on child.oid = inhrelid
    where inhparent = 'hot'::regclass order by child.relname`.execute(db)
  const found: SourceDay[] = []
  for (const { name } of partitions) {
    const day = Date.parse(`${name.slice(4).replaceAll('_', '-')}T00:00:00Z`) / DAY_MS
    if (!(day < beforeDay)) continue
    const { rows } = await sql<{ sourceId: number }>`
      with recursive step as (
        (select source_id from ${sql.id(name)} order by source_id limit 1)
        union all
        select (select source_id from ${sql.id(name)} where source_id > step.source_id order by source_id limit 1)
        from step where step.source_id is not null
      ) select source_id as "sourceId" from step where source_id is not null`.execute(db)
    found.push(...rows.map(({ sourceId }) => ({ sourceId, day })))
  }
  return found
}

/**
 * Moves the rows of one source and day into chunks and summaries, in one transaction: after a crash at any moment the
 * day is either as it was or sealed. What arrives late for a sealed day is sealed into it by the next call. A wide day is
 * sealed in parts, so that its rows never lie in memory as a whole.
 * @returns how many rows were moved
 */
export async function sealDay(db: Db, { sourceId, day }: SourceDay): Promise<number> {
  let moved = 0
  for (;;) {
    const count = await within(db, async (trx) => {
      await lockSource(trx, sourceId)
      return sealRows(trx, sourceId, day)
    })
    moved += count
    if (count === 0) return moved
  }
}

async function sealRows(trx: Db, sourceId: number, day: number): Promise<number> {
  const [from, to] = [new Date(day * DAY_MS), new Date((day + 1) * DAY_MS)]
  const { rows } = await sql<{ ms: string; layout: number; vals: Buffer }>`
    delete from hot where source_id = ${sourceId} and ts >= ${from} and ts < ${to} and ts <= coalesce((
      select max(ts) from (
        select ts, sum(length(vals)) over (order by ts) as bytes from hot
        where source_id = ${sourceId} and ts >= ${from} and ts < ${to}
      ) sized where bytes <= ${MOST_BYTES}), 'infinity')
    returning (extract(epoch from ts) * 1000)::bigint as ms, layout, vals`.execute(trx)
  if (rows.length === 0) return 0
  const moments = rows
    .map(({ ms, layout, vals }) => ({ atMs: Number(ms), layout, vals }))
    .sort((a, b) => a.atMs - b.atMs)
  const columns = await columnsOf(trx, moments)
  const seriesIds = [...columns.keys()].sort((a, b) => a - b)
  for (let start = 0; start < seriesIds.length; start += TOGETHER) {
    const some = seriesIds.slice(start, start + TOGETHER)
    await sealSeries(trx, day, new Map(some.map((id) => [id, columns.get(id)!])))
  }
  await keepLast(trx, sourceId, moments.at(-1)!)
  return rows.length
}

interface Moment {
  readonly atMs: number
  readonly layout: number
  readonly vals: Buffer
}

/** The readings of each series that still exists, out of the wide rows. */
async function columnsOf(trx: Db, moments: readonly Moment[]): Promise<Map<number, Curve>> {
  const layoutIds = [...new Set(moments.map((moment) => moment.layout))]
  const { rows: layouts } = await sql<{ id: number; seriesIds: number[] }>`
    select layout.id, array(
      select coalesce(series.id, 0) from unnest(layout.series_ids) with ordinality as slot (id, at)
      left join series on series.id = slot.id order by slot.at
    ) as "seriesIds"
    from layout where layout.id = any(${layoutIds}::int[])`.execute(trx)
  const seriesOf = new Map(layouts.map(({ id, seriesIds }) => [id, seriesIds]))
  const found = new Map<number, { times: number[]; values: number[] }>()
  for (const { atMs, layout, vals } of moments) {
    seriesOf.get(layout)?.forEach((seriesId, slot) => {
      const value = readSlot(vals, slot)
      if (value === null || seriesId === 0) return
      let column = found.get(seriesId)
      if (column === undefined) found.set(seriesId, (column = { times: [], values: [] }))
      column.times.push(atMs)
      column.values.push(value)
    })
  }
  return new Map([...found].map(([id, column]) => [id, asCurve(column)]))
}

const asCurve = ({ times, values }: { times: number[]; values: number[] }): Curve => ({
  times: Float64Array.from(times),
  values: Float64Array.from(values),
})

/** Merges fresh readings of one day into what is sealed of it. */
export async function sealSeries(trx: Db, day: number, fresh: ReadonlyMap<number, Curve>): Promise<void> {
  const sealed = new Map(
    (await lockChunks(trx, [...fresh.keys()], day, day)).map((chunk) => [chunk.seriesId, chunk]),
  )
  const chunks: NewChunk[] = []
  const days: DayOfSeries[] = []
  const corrected: CorrectedReading[] = []
  for (const [seriesId, curve] of fresh) {
    const chunk = sealed.get(seriesId)
    const before = chunk === undefined ? NO_READINGS : decodeChunk(chunk.data, deflate)
    const merged = mergeCurves(before, curve)
    chunks.push({ seriesId, day: chunk?.day ?? day, days: chunk?.days ?? 1, curve: merged.curve })
    days.push({ seriesId, day, curve: merged.curve })
    corrected.push(...merged.corrections.map((each) => ({ ...each, seriesId })))
  }
  await writeChunks(trx, chunks)
  await updateSummaries(trx, days)
  await recordCorrections(trx, corrected)
}

async function keepLast(trx: Db, sourceId: number, { atMs, layout, vals }: Moment): Promise<void> {
  await sql`
    insert into last_sealed (source_id, ts, layout, vals)
    select ${sourceId}, ${new Date(atMs)}::timestamptz, ${layout}::int, ${vals}::bytea
    where exists (select 1 from source where id = ${sourceId})
    on conflict (source_id) do update set ts = excluded.ts, layout = excluded.layout, vals = excluded.vals
    where last_sealed.ts < excluded.ts`.execute(trx)
}

/**
 * Drops the day's partition of rows when nothing is left in it. Waits for its lock only shortly: whoever reads or writes
 * meanwhile goes first, and the next pass tries again.
 */
export async function dropEmptyPartitions(db: Db, beforeDay: number): Promise<number> {
  const { rows } = await sql<{ name: string }>`
    select child.relname as name from pg_inherits join pg_class child on child.oid = inhrelid
    where inhparent = 'hot'::regclass order by child.relname`.execute(db)
  let dropped = 0
  for (const { name } of rows) {
    const day = Date.parse(`${name.slice(4).replaceAll('_', '-')}T00:00:00Z`) / DAY_MS
    if (!(day < beforeDay)) continue
    if (await dropIfEmpty(db, name)) dropped += 1
  }
  return dropped
}

/** Not when somebody reads or writes there just now: the next pass comes. */
const dropIfEmpty = (db: Db, name: string): Promise<boolean> =>
  db
    .transaction()
    .execute(async (trx) => {
      await sql`set local lock_timeout = '200ms'`.execute(trx)
      await sql`lock table hot in access exclusive mode`.execute(trx)
      const { rows: left } = await sql`select 1 from ${sql.id(name)} limit 1`.execute(trx)
      if (left.length > 0) return false
      await sql`drop table ${sql.id(name)}`.execute(trx)
      return true
    })
    .catch((error: unknown) => {
      if (error instanceof Error && 'code' in error && error.code === '55P03') return false
      throw error
    })
