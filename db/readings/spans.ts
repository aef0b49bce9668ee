import { type RawBuilder, sql } from 'kysely'
import {
  type Curve,
  decodeChunks,
  decodeNumbers,
  joinCurves,
  mergeCurves,
  NO_READINGS,
  readSlot,
} from '#core/readings'
import type { Db } from '../platform/connect.ts'
import { dayOf } from './days.ts'
import { deflate } from './squeezer.ts'

/** All readings of one series in a span, both ends included, sealed or not. */
export async function readSpan(db: Db, seriesId: number, fromMs: number, toMs: number): Promise<Curve> {
  return (await readSpans(db, [seriesId], fromMs, toMs)).get(seriesId) ?? NO_READINGS
}

/** A row is a chunk, one slot of a row that is not sealed yet, or such a row as a whole. */
interface Row {
  readonly what: 'chunk' | 'slot' | 'row'
  /** Of the series; of the layout for a whole row. */
  readonly id: number
  readonly ms: string
  readonly data: Buffer
}

/** Of so many series of one source the whole rows are cheaper than the slots one by one. */
const SLOTS_AT_MOST = 4

/**
 * All readings of several series in a span, both ends included. Chunks and rows come in one statement, and so from one
 * snapshot: a reading that is being sealed at this moment is seen once.
 */
export async function readSpans(
  db: Db,
  seriesIds: readonly number[],
  fromMs: number,
  toMs: number,
): Promise<Map<number, Curve>> {
  const stored = await fetchStored(db, seriesIds, fromMs, toMs)
  return new Map(seriesIds.map((id) => [id, curveOf(stored.get(id), fromMs, toMs)]))
}

/** Series that are fetched together: so many fit into memory for any span of months. */
const TOGETHER = 40

/**
 * Only the numbers (no NaN) of several series in a span, in no order; series after series. The next are fetched while
 * these are worked on.
 * @param visit is given an array that it may move about in, valid until it returns
 */
export async function visitNumbers(
  db: Db,
  seriesIds: readonly number[],
  span: { readonly fromMs: number; readonly toMs: number },
  visit: (seriesId: number, numbers: Float64Array) => void,
): Promise<void> {
  const fetchFrom = (start: number) =>
    fetchStored(db, seriesIds.slice(start, start + TOGETHER), span.fromMs, span.toMs)
  let room: Float64Array = new Float64Array()
  let coming = fetchFrom(0)
  for (let start = 0; start < seriesIds.length; start += TOGETHER) {
    const stored = await coming
    coming = fetchFrom(start + TOGETHER)
    // Should the work fail, what was asked for ahead fails unheard.
    coming.catch(() => undefined)
    for (const id of seriesIds.slice(start, start + TOGETHER)) {
      const own = stored.get(id)
      const numbers =
        own?.fresh === undefined
          ? decodeNumbers(own?.chunks ?? [], deflate, span, room)
          : curveOf(own, span.fromMs, span.toMs).values.filter((value) => !Number.isNaN(value))
      if (own?.fresh === undefined && numbers.buffer !== room.buffer) room = new Float64Array(numbers.buffer)
      visit(id, numbers)
    }
  }
}

/** What is stored of a series over a span, not decoded yet. */
interface Stored {
  readonly chunks: Uint8Array[]
  /** Not sealed yet. */
  fresh?: { readonly times: number[]; readonly values: number[] }
}

async function fetchStored(
  db: Db,
  seriesIds: readonly number[],
  fromMs: number,
  toMs: number,
): Promise<Map<number, Stored>> {
  if (seriesIds.length === 0) return new Map()
  // A few are found in the same statement, which saves a way there and back.
  const { at, layouts } =
    seriesIds.length <= SLOTS_AT_MOST ? placesOfFew(seriesIds) : await placesOf(db, seriesIds)
  const [from, to] = [new Date(Math.max(fromMs, -62e12)), new Date(Math.min(toMs, 253e12))]
  const { rows } = await sql<Row>`
    select 'chunk' as what, series_id as id, day::bigint as ms, data from chunk
      where series_id = any(${[...seriesIds]}::int[]) and day <= ${dayOf(to.getTime())} and day + days > ${dayOf(from.getTime())}
    union all
    select 'slot', at.series_id, (extract(epoch from hot.ts) * 1000)::bigint, substring(hot.vals from at.slot * 8 + 1 for 8)
      from ${at}
      join hot on hot.source_id = at.source_id and hot.layout = at.layout and hot.ts between ${from} and ${to}
    union all
    select 'row', hot.layout, (extract(epoch from hot.ts) * 1000)::bigint, hot.vals
      from unnest(${[...layouts.values()].map((each) => each.sourceId)}::int[], ${[...layouts.keys()]}::int[]) as at (source_id, layout)
      join hot on hot.source_id = at.source_id and hot.layout = at.layout and hot.ts between ${from} and ${to}
    order by 3`.execute(db)

  const stored = new Map<number, Stored>()
  const storedOf = (id: number): Stored => {
    const known = stored.get(id) ?? { chunks: [] }
    stored.set(id, known)
    return known
  }
  const add = (seriesId: number, atMs: number, value: number | null): void => {
    if (value === null) return
    const fresh = (storedOf(seriesId).fresh ??= { times: [], values: [] })
    fresh.times.push(atMs)
    fresh.values.push(value)
  }
  for (const { what, id, ms, data } of rows) {
    if (what === 'chunk') storedOf(id).chunks.push(data)
    else if (what === 'slot') add(id, Number(ms), readSlot(data, 0))
    else
      for (const { seriesId, slot } of layouts.get(id)!.slots) add(seriesId, Number(ms), readSlot(data, slot))
  }
  return stored
}

function curveOf(stored: Stored | undefined, fromMs: number, toMs: number): Curve {
  if (stored === undefined) return NO_READINGS
  const sealed = decodeChunks(stored.chunks, deflate, fromMs, toMs)
  if (stored.fresh === undefined) return sealed
  const hot = { times: Float64Array.from(stored.fresh.times), values: Float64Array.from(stored.fresh.values) }
  return follows(sealed, hot) ? joinCurves([sealed, hot]) : mergeCurves(sealed, hot).curve
}

const follows = (first: Curve, second: Curve): boolean =>
  (first.times.at(-1) ?? -Infinity) < (second.times[0] ?? Infinity) && isAscending(second.times)

function isAscending(times: Float64Array): boolean {
  for (let index = 1; index < times.length; index += 1) if (times[index]! <= times[index - 1]!) return false
  return true
}

interface Places {
  /** A table `at (series_id, source_id, layout, slot)`. */
  readonly at: RawBuilder<unknown>
  /** Of which whole rows are fetched. */
  readonly layouts: ReadonlyMap<
    number,
    { readonly sourceId: number; readonly slots: { seriesId: number; slot: number }[] }
  >
}

const placesOfFew = (seriesIds: readonly number[]): Places => ({
  at: sql`(
    select series.id as series_id, layout.source_id, layout.id as layout, array_position(layout.series_ids, series.id) - 1 as slot
    from series join layout on layout.source_id = series.source_id and layout.series_ids @> array[series.id]
    where series.id = any(${[...seriesIds]}::int[])
  ) at`,
  layouts: new Map(),
})

/** Where series sit in the rows that are not sealed. */
async function placesOf(db: Db, seriesIds: readonly number[]): Promise<Places> {
  const { rows } = await sql<{ layout: number; sourceId: number; seriesIds: number[] }>`
    select id as layout, source_id as "sourceId", series_ids as "seriesIds" from layout
    where source_id in (select source_id from series where id = any(${[...seriesIds]}::int[]))
      and series_ids && ${[...seriesIds]}::int[]`.execute(db)
  const wanted = new Set(seriesIds)
  const slots: { seriesId: number; sourceId: number; layout: number; slot: number }[] = []
  const layouts = new Map<number, { sourceId: number; slots: { seriesId: number; slot: number }[] }>()
  for (const { layout, sourceId, seriesIds: all } of rows) {
    const own = all.flatMap((seriesId, slot) => (wanted.has(seriesId) ? [{ seriesId, slot }] : []))
    if (own.length > SLOTS_AT_MOST) layouts.set(layout, { sourceId, slots: own })
    else slots.push(...own.map((each) => ({ ...each, sourceId, layout })))
  }
  const at = sql`unnest(
    ${slots.map((each) => each.seriesId)}::int[], ${slots.map((each) => each.sourceId)}::int[],
    ${slots.map((each) => each.layout)}::int[], ${slots.map((each) => each.slot)}::int[]
  ) as at (series_id, source_id, layout, slot)`
  return { at, layouts }
}
