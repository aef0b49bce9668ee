import { sql } from 'kysely'
import { type Curve, decodeSlots, encodeSlots } from '#core/readings'
import type { Db } from './connect.ts'

const DAY_MS = 86_400_000

/** One moment of one source. `values` are in the slot order of the layout. */
export interface MomentRow {
  readonly sourceId: number
  readonly atMs: number
  readonly layout: { readonly id: number; readonly seriesIds: readonly number[] }
  readonly values: readonly (number | null)[]
}

/** Makes the daily partitions from one instant to another (UTC days); those that exist are left alone. */
export async function ensurePartitions(db: Db, fromMs: number, toMs: number): Promise<void> {
  for (let day = Math.floor(fromMs / DAY_MS) * DAY_MS; day <= toMs; day += DAY_MS) {
    const name = `hot_${new Date(day).toISOString().slice(0, 10).replaceAll('-', '_')}`
    const from = sql.lit(new Date(day).toISOString())
    const to = sql.lit(new Date(day + DAY_MS).toISOString())
    await sql`create table if not exists ${sql.id(name)} partition of hot for values from (${from}) to (${to})`.execute(
      db,
    )
  }
}

/**
 * Stores a moment once. The same source and instant again is a duplicate; where the second brings series or values that
 * the first did not have (a sender may split one instant over two requests), they are added, and nothing is replaced.
 */
export async function insertMoment(trx: Db, row: MomentRow): Promise<'stored' | 'merged' | 'duplicate'> {
  const ts = new Date(row.atMs)
  const inserted = await trx
    .insertInto('hot')
    .values({ sourceId: row.sourceId, ts, layout: row.layout.id, vals: Buffer.from(encodeSlots(row.values)) })
    .onConflict((conflict) => conflict.columns(['sourceId', 'ts']).doNothing())
    .returning('sourceId')
    .executeTakeFirst()
  if (inserted !== undefined) return 'stored'

  const before = await trx
    .selectFrom('hot')
    .innerJoin('layout', 'layout.id', 'hot.layout')
    .select(['hot.vals', 'layout.seriesIds'])
    .where('hot.sourceId', '=', row.sourceId)
    .where('hot.ts', '=', ts)
    .forUpdate('hot')
    .executeTakeFirstOrThrow()
  const known = new Map(before.seriesIds.map((id, slot) => [id, slot]))
  const old = decodeSlots(before.vals)
  const brought = row.layout.seriesIds.some((id, slot) => {
    const at = known.get(id)
    return row.values[slot] != null && (at === undefined || old[at] == null)
  })
  if (!brought) return 'duplicate'
  const merged = mergeMoments(
    { seriesIds: before.seriesIds, values: old },
    { seriesIds: row.layout.seriesIds, values: row.values },
  )
  const layout = await layoutFor(trx, row.sourceId, merged.seriesIds)
  await trx
    .updateTable('hot')
    .set({ layout, vals: Buffer.from(encodeSlots(merged.values)) })
    .where('sourceId', '=', row.sourceId)
    .where('ts', '=', ts)
    .execute()
  return 'merged'
}

interface Slots {
  readonly seriesIds: readonly number[]
  readonly values: readonly (number | null)[]
}

function mergeMoments(first: Slots, second: Slots): { seriesIds: number[]; values: (number | null)[] } {
  const values = new Map<number, number | null>(
    first.seriesIds.map((id, slot) => [id, first.values[slot] ?? null]),
  )
  second.seriesIds.forEach((id, slot) => values.set(id, values.get(id) ?? second.values[slot] ?? null))
  return { seriesIds: [...values.keys()], values: [...values.values()] }
}

/** The id of the layout with exactly these series in this order, made when there is none yet. */
export async function layoutFor(trx: Db, sourceId: number, seriesIds: readonly number[]): Promise<number> {
  const found = await trx
    .selectFrom('layout')
    .select('id')
    .where('sourceId', '=', sourceId)
    .where('seriesIds', '=', sql<number[]>`${[...seriesIds]}::int[]`)
    .executeTakeFirst()
  if (found !== undefined) return found.id
  const made = await trx
    .insertInto('layout')
    .values({ sourceId, seriesIds: [...seriesIds] })
    .returning('id')
    .executeTakeFirstOrThrow()
  return made.id
}

export interface Latest {
  readonly seriesId: number
  readonly atMs: number
  readonly value: number | null
}

/** The newest row of each source, taken apart; a slot without a value stays `null`. Read from the last wide rows. */
export async function latestReadings(db: Db, sourceIds?: readonly number[]): Promise<Map<number, Latest>> {
  if (sourceIds?.length === 0) return new Map()
  const only = sourceIds === undefined ? sql`` : sql`where s.id = any(${[...sourceIds]}::int[])`
  const { rows } = await sql<{ ts: Date; vals: Buffer; seriesIds: number[] }>`
    select last.ts, last.vals, layout.series_ids as "seriesIds"
    from source s
    cross join lateral (select ts, vals, layout from hot where hot.source_id = s.id order by ts desc limit 1) last
    join layout on layout.id = last.layout ${only}`.execute(db)
  const latest = new Map<number, Latest>()
  for (const row of rows) {
    const atMs = row.ts.getTime()
    const values = decodeSlots(row.vals)
    row.seriesIds.forEach((seriesId, slot) =>
      latest.set(seriesId, { seriesId, atMs, value: values[slot] ?? null }),
    )
  }
  return latest
}

/** All readings of one series in a span, both ends included. Only the one slot travels, not the whole row. */
export async function readSpan(db: Db, seriesId: number, fromMs: number, toMs: number): Promise<Curve> {
  const { rows } = await sql<{ ms: string; bytes: Buffer }>`
    select (extract(epoch from hot.ts) * 1000)::bigint as ms, substring(hot.vals from slot * 8 - 7 for 8) as bytes
    from (
      select l.id, l.source_id, array_position(l.series_ids, ${seriesId}) as slot
      from layout l join series on series.id = ${seriesId} and l.source_id = series.source_id
      where ${seriesId} = any(l.series_ids)
    ) at
    join hot on hot.source_id = at.source_id and hot.layout = at.id
    where hot.ts between ${new Date(fromMs)} and ${new Date(toMs)}
    order by hot.ts`.execute(db)
  const times: number[] = []
  const values: number[] = []
  for (const row of rows) {
    const value = row.bytes.length === 8 ? row.bytes.readDoubleLE(0) : Number.NaN
    if (Number.isNaN(value)) continue
    times.push(Number(row.ms))
    values.push(value)
  }
  return { times: Float64Array.from(times), values: Float64Array.from(values) }
}

/** The newest rows of one source up to an instant, oldest first: what a rule needs to look back. */
export async function recentMoments(
  db: Db,
  sourceId: number,
  upToMs: number,
  count: number,
): Promise<{ atMs: number; values: Map<number, number> }[]> {
  const rows = await db
    .selectFrom('hot')
    .innerJoin('layout', 'layout.id', 'hot.layout')
    .select(['hot.ts', 'hot.vals', 'layout.seriesIds'])
    .where('hot.sourceId', '=', sourceId)
    .where('hot.ts', '<=', new Date(upToMs))
    .orderBy('hot.ts', 'desc')
    .limit(count)
    .execute()
  return rows.reverse().map((row) => {
    const slots = decodeSlots(row.vals)
    const values = new Map<number, number>()
    row.seriesIds.forEach((id, slot) => {
      const value = slots[slot]
      if (value != null) values.set(id, value)
    })
    return { atMs: row.ts.getTime(), values }
  })
}
