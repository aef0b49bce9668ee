import { sql } from 'kysely'
import { decodeSlots, encodeSlots, readSlot } from '#core/readings'
import type { Db } from '../platform/connect.ts'
import { DAY_MS } from './days.ts'
import { recordCorrections } from './corrections.ts'

/** One moment of one source. `values` are in the slot order of the layout. */
export interface MomentRow {
  readonly sourceId: number
  readonly atMs: number
  readonly layout: { readonly id: number; readonly seriesIds: readonly number[] }
  readonly values: readonly (number | null)[]
}

/** Makes the daily partitions from one instant to another (UTC days); those that exist are left alone. */
export async function ensurePartitions(db: Db, fromMs: number, toMs: number): Promise<void> {
  for (let day = Math.floor(fromMs / DAY_MS) * DAY_MS; day <= toMs; day += DAY_MS)
    await sql`select make_hot(${new Date(day).toISOString().slice(0, 10)}::date)`.execute(db)
}

export type Stored = 'stored' | 'merged' | 'duplicate'

/**
 * Stores moments, each once, in one statement; durable when the transaction around it is committed. A source and instant
 * that is there already is a duplicate; where the second brings series or values that the first did not have (a sender
 * may split one instant over two requests) they are added, and a value that differs takes its place as a correction.
 * @returns what became of each, in their order
 */
export async function insertMoments(trx: Db, rows: readonly MomentRow[]): Promise<Stored[]> {
  // The values of all rows travel as one parameter, in binary; an array of them would travel as text, twice the size.
  const values = rows.map((row) => encodeSlots(row.values))
  const { rows: inserted } = await sql<{ sourceId: number; ms: string }>`/* prepared insert_moments */
    insert into hot (source_id, ts, layout, vals)
    select source_id, ts, layout, substring(${Buffer.concat(values)}::bytea from (sum(size) over (order by at) - size)::int + 1 for size)
    from unnest(
      ${rows.map((row) => row.sourceId)}::int[],
      ${rows.map((row) => new Date(row.atMs))}::timestamptz[],
      ${rows.map((row) => row.layout.id)}::int[],
      ${values.map((bytes) => bytes.length)}::int[]
    ) with ordinality as given (source_id, ts, layout, size, at)
    on conflict (source_id, ts) do nothing
    returning source_id as "sourceId", (extract(epoch from ts) * 1000)::bigint as ms`.execute(trx)
  const fresh = new Set(inserted.map((row) => `${row.sourceId} ${row.ms}`))
  const outcomes: Stored[] = []
  for (const row of rows) {
    // Of two equal ones in one batch the first was stored, the second comes upon it.
    const isFresh = fresh.delete(`${row.sourceId} ${row.atMs}`)
    outcomes.push(isFresh ? 'stored' : await mergeMoment(trx, row))
  }
  return outcomes
}

async function mergeMoment(trx: Db, row: MomentRow): Promise<Stored> {
  const ts = new Date(row.atMs)
  const before = await trx
    .selectFrom('hot')
    .innerJoin('layout', 'layout.id', 'hot.layout')
    .select(['hot.vals', 'layout.seriesIds'])
    .where('hot.sourceId', '=', row.sourceId)
    .where('hot.ts', '=', ts)
    .forUpdate('hot')
    .executeTakeFirstOrThrow()
  const old: Slots = { seriesIds: before.seriesIds, values: decodeSlots(before.vals) }
  const { slots, added, corrections } = mergeSlots(old, {
    seriesIds: row.layout.seriesIds,
    values: row.values,
  })
  if (added === 0 && corrections.length === 0) return 'duplicate'
  const layout = await layoutFor(trx, row.sourceId, slots.seriesIds)
  await trx
    .updateTable('hot')
    .set({ layout, vals: Buffer.from(encodeSlots(slots.values)) })
    .where('sourceId', '=', row.sourceId)
    .where('ts', '=', ts)
    .execute()
  await recordCorrections(
    trx,
    corrections.map((each) => ({ ...each, atMs: row.atMs })),
  )
  return 'merged'
}

interface Slots {
  readonly seriesIds: readonly number[]
  readonly values: readonly (number | null)[]
}

function mergeSlots(first: Slots, second: Slots) {
  const values = new Map<number, number | null>(
    first.seriesIds.map((id, slot) => [id, first.values[slot] ?? null]),
  )
  const corrections: { seriesId: number; was: number; became: number }[] = []
  let added = 0
  second.seriesIds.forEach((seriesId, slot) => {
    const became = second.values[slot] ?? null
    const was = values.get(seriesId) ?? null
    if (became === null || Object.is(was, became)) {
      if (!values.has(seriesId)) values.set(seriesId, null)
      return
    }
    values.set(seriesId, became)
    if (was === null) added += 1
    else corrections.push({ seriesId, was, became })
  })
  const slots: Slots = { seriesIds: [...values.keys()], values: [...values.values()] }
  return { slots, added, corrections }
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
  /** `null` when the newest row of its source has no value for it. */
  readonly value: number | null
}

/** Layouts never change once made: each pool of connections remembers those it has met. */
interface Layouts {
  readonly slots: Map<number, ReadonlyMap<number, number>>
  readonly seriesIds: Map<number, readonly number[]>
}
const knownLayouts = new WeakMap<Db, Layouts>()

interface NewestRow {
  readonly sourceId: number
  readonly ms: number
  readonly layout: number
  readonly vals: Buffer
}

/**
 * The newest row of each source, and of each layout where a source has now one, now another. A value is taken out when
 * it is asked for: most screens ask for few.
 */
export class LatestReadings {
  /** By layout, the oldest first. */
  readonly #rows: ReadonlyMap<number, NewestRow>

  constructor(
    rows: readonly NewestRow[],
    private readonly layouts: Layouts,
  ) {
    // A late row may wait while a newer one is sealed: of two rows of a layout the newer one counts.
    const newest = new Map<number, NewestRow>()
    for (const row of rows)
      if (row.ms >= (newest.get(row.layout)?.ms ?? -Infinity)) newest.set(row.layout, row)
    this.#rows = new Map([...newest.values()].sort((a, b) => a.ms - b.ms).map((row) => [row.layout, row]))
  }

  get(seriesId: number): Latest | undefined {
    let found: Latest | undefined
    for (const [layout, { ms, vals }] of this.#rows) {
      const slot = this.layouts.slots.get(layout)?.get(seriesId)
      if (slot !== undefined) found = { seriesId, atMs: ms, value: readSlot(vals, slot) }
    }
    return found
  }

  /**
   * All of them; NaN where the newest row has no value. Nothing is made on the way: a series that is in several layouts
   * comes several times, the newest last.
   */
  forEach(visit: (seriesId: number, atMs: number, value: number) => void): void {
    for (const [layout, { ms, vals }] of this.#rows) {
      const view = new DataView(vals.buffer, vals.byteOffset, vals.byteLength)
      const seriesIds = this.layouts.seriesIds.get(layout) ?? []
      for (let slot = 0; slot < seriesIds.length; slot += 1)
        visit(seriesIds[slot]!, ms, view.getFloat64(slot * 8, true))
    }
  }
}

const TURNS_MS = 10_000
const inTurns = new WeakMap<Db, { atMs: number; isSo: boolean }>()

/** Whether any source has rows that come in turns: seldom so, and looked at every few seconds. */
async function hasSourcesInTurns(db: Db): Promise<boolean> {
  const known = inTurns.get(db)
  if (known !== undefined && Date.now() - known.atMs < TURNS_MS) return known.isSo
  const { rows } = await sql`select 1 from source where latest_rows > 1 limit 1`.execute(db)
  inTurns.set(db, { atMs: Date.now(), isSo: rows.length > 0 })
  return rows.length > 0
}

/**
 * The newest reading of every series, read from the last wide row of each source; where everything of a source is
 * sealed, from the last one that was.
 */
export async function latestReadings(db: Db, sourceIds?: readonly number[]): Promise<LatestReadings> {
  const layouts = knownLayouts.get(db) ?? { slots: new Map(), seriesIds: new Map() }
  knownLayouts.set(db, layouts)
  if (sourceIds?.length === 0) return new LatestReadings([], layouts)
  const ms = sql`(extract(epoch from ts) * 1000)::float8 as ms`
  const hasSplit = await hasSourcesInTurns(db)
  const several = (only: ReturnType<typeof sql>) =>
    hasSplit
      ? sql`union all
    select s.id, ${ms}, layout, vals from source s cross join lateral (
      select distinct on (layout) ts, layout, vals from (
        select ts, layout, vals from hot where hot.source_id = s.id order by ts desc limit s.latest_rows
      ) back order by layout, ts desc
    ) several where s.latest_rows > 1 ${only}`
      : sql``
  const name = (what: string) => sql.raw(`/* prepared ${what}${hasSplit ? '_in_turns' : ''} */`)
  // What was sealed last counts where nothing newer waits to be sealed: the row of a source that went silent.
  const newest = (
    sources: ReturnType<typeof sql>,
    split: ReturnType<typeof sql>,
    only: ReturnType<typeof sql>,
  ) => sql`
    select s.id as "sourceId", ${ms}, layout, vals from ${sources} cross join lateral (
      select ts, layout, vals from hot where hot.source_id = s.id order by ts desc limit 1
    ) waiting
    ${split}
    union all
    select k.source_id, ${ms}, layout, vals from last_sealed k
    where not exists (select 1 from hot where hot.source_id = k.source_id and hot.ts >= k.ts) ${only}`
  const { rows } = await (
    sourceIds === undefined
      ? sql<NewestRow>`${name('latest_of_all')} ${newest(sql`source s`, several(sql``), sql``)}`
      : sql<NewestRow>`${name('latest_of_some')} ${newest(
          sql`unnest(${[...sourceIds]}::int[]) as s (id)`,
          several(sql`and s.id = any(${[...sourceIds]}::int[])`),
          sql`and k.source_id = any(${[...sourceIds]}::int[])`,
        )}`
  ).execute(db.withoutPlugins())
  const missing = rows.map((row) => row.layout).filter((id) => !layouts.seriesIds.has(id))
  if (missing.length > 0) {
    const found = await db
      .selectFrom('layout')
      .select(['id', 'seriesIds'])
      .where('id', 'in', missing)
      .execute()
    for (const { id, seriesIds } of found) {
      layouts.seriesIds.set(id, seriesIds)
      layouts.slots.set(id, new Map(seriesIds.map((seriesId, slot) => [seriesId, slot])))
    }
  }
  return new LatestReadings(rows, layouts)
}

/** What one source told at one instant, by series. */
export interface Moment {
  readonly atMs: number
  readonly values: ReadonlyMap<number, number>
}

/** The newest rows of one source up to an instant, oldest first: what a rule needs to look back. */
export async function recentMoments(
  db: Db,
  sourceId: number,
  upToMs: number,
  count: number,
): Promise<Moment[]> {
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
