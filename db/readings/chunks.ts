import { sql } from 'kysely'
import { type Curve, encodeChunk } from '#core/readings'
import type { Db } from '../platform/connect.ts'
import { deflate } from './squeezer.ts'

export interface ChunkRow {
  readonly seriesId: number
  readonly day: number
  readonly days: number
  readonly data: Buffer
}

/** Chunks of some series that touch the days from `fromDay` to `toDay`, both included; locked until the transaction ends. */
export async function lockChunks(
  trx: Db,
  seriesIds: readonly number[],
  fromDay: number,
  toDay: number,
): Promise<ChunkRow[]> {
  const { rows } = await sql<ChunkRow>`
    select series_id as "seriesId", day, days, data from chunk
    where series_id = any(${[...seriesIds]}::int[]) and day <= ${toDay} and day + days > ${fromDay}
    order by series_id, day for update`.execute(trx)
  return rows
}

export interface NewChunk {
  readonly seriesId: number
  readonly day: number
  readonly days: number
  readonly curve: Curve
}

/** Writes chunks, in place of those that begin on the same day. Empty ones are passed over. */
export async function writeChunks(trx: Db, chunks: readonly NewChunk[]): Promise<void> {
  const full = chunks.filter(({ curve }) => curve.times.length > 0)
  if (full.length === 0) return
  await sql`
    insert into chunk (series_id, day, days, readings, first_ms, last_ms, data)
    select * from unnest(
      ${full.map((each) => each.seriesId)}::int[],
      ${full.map((each) => each.day)}::int[],
      ${full.map((each) => each.days)}::smallint[],
      ${full.map(({ curve }) => curve.times.length)}::int[],
      ${full.map(({ curve }) => curve.times[0])}::bigint[],
      ${full.map(({ curve }) => curve.times.at(-1))}::bigint[],
      ${full.map(({ curve }) => Buffer.from(encodeChunk(curve, deflate)))}::bytea[])
    on conflict (series_id, day) do update set
      days = excluded.days, readings = excluded.readings, first_ms = excluded.first_ms,
      last_ms = excluded.last_ms, data = excluded.data`.execute(trx)
}
