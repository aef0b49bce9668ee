import { setImmediate } from 'node:timers/promises'
import { type RawBuilder, sql } from 'kysely'
import { type Curve, decodeChunks, decodeNumbers, joinCurves, mergeCurves, NO_READINGS } from '#core/readings'
import type { Db } from '../platform/connect.ts'
import { dayOf } from './days.ts'
import { deflate } from './squeezer.ts'

/** All readings of one series in a span, both ends included, sealed or not. */
export async function readSpan(db: Db, seriesId: number, fromMs: number, toMs: number): Promise<Curve> {
  return (await readSpans(db, [seriesId], fromMs, toMs)).get(seriesId) ?? NO_READINGS
}

/** A chunk of a series, or what of one layout and day is not sealed yet: times and values in one piece each. */
interface Row {
  readonly what: 'chunk' | 'hot'
  /** Of the series; of the layout. */
  readonly id: number
  /** The chunk; of what is not sealed the slots from the first to the last that is wanted, moment after moment. */
  readonly data: Buffer
  /** Milliseconds as eight bytes each, big-endian. */
  readonly times: Buffer | null
  readonly seriesIds: readonly number[] | null
  /** Where each of these is, counted from the first that is wanted. */
  readonly slots: readonly number[] | null
}

/** So many series are found in the same statement, which saves a way there and back. */
const FEW = 40

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
/** So many are worked on in one go. */
const AT_A_TIME = 8

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
    for (const [index, id] of seriesIds.slice(start, start + TOGETHER).entries()) {
      // What is asked for goes out only when this lets go; and whoever else waits is not kept waiting for all of it.
      if (index % AT_A_TIME === 0) await setImmediate()
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
  const at = seriesIds.length <= FEW ? placesOfFew(seriesIds) : await placesOf(db, seriesIds)
  const [from, to] = [new Date(Math.max(fromMs, -62e12)), new Date(Math.min(toMs, 253e12))]
  // Rows of a moment would come by the thousand; put together by layout and day they are a handful.
  const { rows } = await sql<Row>`
    select 'chunk' as what, series_id as id, day, data, null::bytea as times, null::int[] as "seriesIds", null::int[] as slots
      from chunk
      where series_id = any(${[...seriesIds]}::int[]) and day <= ${dayOf(to.getTime())} and day + days > ${dayOf(from.getTime())}
    union all
    select 'hot', at.layout, extract(epoch from date_trunc('day', hot.ts, 'UTC'))::int / 86400,
        string_agg(substring(hot.vals from at.first * 8 + 1 for at.count * 8), '' order by hot.ts),
        string_agg(int8send((extract(epoch from hot.ts) * 1000)::bigint), '' order by hot.ts), at.series_ids, at.slots
      from ${at}
      join hot on hot.source_id = at.source_id and hot.layout = at.layout and hot.ts between ${from} and ${to}
      group by at.layout, at.first, at.count, at.series_ids, at.slots, 3, length(hot.vals)
    order by 3`.execute(db.withoutPlugins())

  const stored = new Map<number, Stored>()
  const storedOf = (id: number): Stored => {
    const known = stored.get(id) ?? { chunks: [] }
    stored.set(id, known)
    return known
  }
  for (const row of rows)
    if (row.what === 'chunk') storedOf(row.id).chunks.push(row.data)
    else addFresh(row, storedOf)
  return stored
}

function addFresh({ data, times, seriesIds, slots }: Row, storedOf: (id: number) => Stored): void {
  const count = times!.length / 8
  const stride = data.length / count
  const instants = Array.from({ length: count }, (_, index) => Number(times!.readBigInt64BE(index * 8)))
  seriesIds!.forEach((id, index) => {
    const slot = slots![index]!
    // An older row of the layout may have had fewer slots.
    if ((slot + 1) * 8 > stride) return
    const fresh = (storedOf(id).fresh ??= { times: [], values: [] })
    instants.forEach((atMs, moment) => {
      const value = data.readDoubleLE(moment * stride + slot * 8)
      if (Number.isNaN(value)) return
      fresh.times.push(atMs)
      fresh.values.push(value)
    })
  })
}

function curveOf(stored: Stored | undefined, fromMs: number, toMs: number): Curve {
  if (stored === undefined) return NO_READINGS
  const sealed = decodeChunks(stored.chunks, deflate, fromMs, toMs)
  if (stored.fresh === undefined) return sealed
  const hot = inOrder(stored.fresh)
  return follows(sealed, hot) ? joinCurves([sealed, hot]) : mergeCurves(sealed, hot).curve
}

/** A series that is now in one layout, now in another comes in pieces that lie between each other. */
function inOrder({ times, values }: NonNullable<Stored['fresh']>): Curve {
  const given = { times: Float64Array.from(times), values: Float64Array.from(values) }
  if (isAscending(given.times)) return given
  const order = times.map((_, index) => index).sort((a, b) => times[a]! - times[b]!)
  return {
    times: Float64Array.from(order, (index) => times[index]!),
    values: Float64Array.from(order, (index) => values[index]!),
  }
}

const follows = (first: Curve, second: Curve): boolean =>
  (first.times.at(-1) ?? -Infinity) < (second.times[0] ?? Infinity) && isAscending(second.times)

function isAscending(times: Float64Array): boolean {
  for (let index = 1; index < times.length; index += 1) if (times[index]! <= times[index - 1]!) return false
  return true
}

/** A table `at (layout, source_id, first, count, series_ids, slots)`: where series sit in the rows that are not sealed. */
type Places = RawBuilder<unknown>

const placesOfFew = (seriesIds: readonly number[]): Places => sql`(
    select layout, source_id, min(slot) as first, max(slot) - min(slot) + 1 as count,
      array_agg(series_id order by slot) as series_ids,
      array_agg(slot - least order by slot) as slots
    from (
      select series.id as series_id, layout.source_id, layout.id as layout,
        array_position(layout.series_ids, series.id) - 1 as slot,
        min(array_position(layout.series_ids, series.id) - 1) over (partition by layout.id) as least
      from series join layout on layout.source_id = series.source_id and layout.series_ids @> array[series.id]
      where series.id = any(${[...seriesIds]}::int[])
    ) each group by layout, source_id
  ) at`

async function placesOf(db: Db, seriesIds: readonly number[]): Promise<Places> {
  const { rows } = await sql<{ layout: number; sourceId: number; seriesIds: number[] }>`
    select id as layout, source_id as "sourceId", series_ids as "seriesIds" from layout
    where source_id in (select source_id from series where id = any(${[...seriesIds]}::int[]))
      and series_ids && ${[...seriesIds]}::int[]`.execute(db)
  const wanted = new Set(seriesIds)
  const places = rows.map(({ layout, sourceId, seriesIds: all }) => {
    const own = all.flatMap((seriesId, slot) => (wanted.has(seriesId) ? [{ seriesId, slot }] : []))
    const first = own[0]!.slot
    return {
      layout,
      sourceId,
      first,
      count: own.at(-1)!.slot - first + 1,
      seriesIds: `{${own.map(({ seriesId }) => seriesId).join(',')}}`,
      slots: `{${own.map(({ slot }) => slot - first).join(',')}}`,
    }
  })
  return sql`(
    select layout, source_id, first, count, ids::int[] as series_ids, places::int[] as slots
    from unnest(
      ${places.map(({ layout }) => layout)}::int[], ${places.map(({ sourceId }) => sourceId)}::int[],
      ${places.map(({ first }) => first)}::int[], ${places.map(({ count }) => count)}::int[],
      ${places.map((each) => each.seriesIds)}::text[], ${places.map(({ slots }) => slots)}::text[]
    ) as given (layout, source_id, first, count, ids, places)
  ) at`
}
