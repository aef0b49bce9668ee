import { sql } from 'kysely'
import {
  type Curve,
  decodeChunk,
  joinCurves,
  lowerBound,
  mergeCurves,
  NO_READINGS,
  readSlot,
} from '#core/readings'
import type { Db } from '../connect.ts'
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
  if (seriesIds.length === 0) return new Map()
  const { slots, layouts } = await placesOf(db, seriesIds)
  const [from, to] = [new Date(Math.max(fromMs, -62e12)), new Date(Math.min(toMs, 253e12))]
  const { rows } = await sql<Row>`
    select 'chunk' as what, series_id as id, day::bigint as ms, data from chunk
      where series_id = any(${[...seriesIds]}::int[]) and day <= ${dayOf(to.getTime())} and day + days > ${dayOf(from.getTime())}
    union all
    select 'slot', at.series_id, (extract(epoch from hot.ts) * 1000)::bigint, substring(hot.vals from at.slot * 8 + 1 for 8)
      from unnest(
        ${slots.map((each) => each.seriesId)}::int[], ${slots.map((each) => each.sourceId)}::int[],
        ${slots.map((each) => each.layout)}::int[], ${slots.map((each) => each.slot)}::int[]
      ) as at (series_id, source_id, layout, slot)
      join hot on hot.source_id = at.source_id and hot.layout = at.layout and hot.ts between ${from} and ${to}
    union all
    select 'row', hot.layout, (extract(epoch from hot.ts) * 1000)::bigint, hot.vals
      from unnest(${[...layouts.values()].map((each) => each.sourceId)}::int[], ${[...layouts.keys()]}::int[]) as at (source_id, layout)
      join hot on hot.source_id = at.source_id and hot.layout = at.layout and hot.ts between ${from} and ${to}
    order by 3`.execute(db)

  const chunks = new Map<number, Curve[]>()
  const fresh = new Map<number, { times: number[]; values: number[] }>()
  const add = (seriesId: number, atMs: number, value: number | null): void => {
    if (value === null) return
    let column = fresh.get(seriesId)
    if (column === undefined) fresh.set(seriesId, (column = { times: [], values: [] }))
    column.times.push(atMs)
    column.values.push(value)
  }
  for (const { what, id, ms, data } of rows) {
    if (what === 'chunk') {
      const curve = decodeChunk(data, deflate, fromMs, toMs)
      chunks.set(id, [...(chunks.get(id) ?? []), curve])
    } else if (what === 'slot') add(id, Number(ms), readSlot(data, 0))
    else
      for (const { seriesId, slot } of layouts.get(id)!.slots) add(seriesId, Number(ms), readSlot(data, slot))
  }
  return new Map(
    seriesIds.map((id) => {
      const sealed = joinCurves(chunks.get(id) ?? [NO_READINGS])
      const column = fresh.get(id)
      if (column === undefined) return [id, sealed]
      const hot = { times: Float64Array.from(column.times), values: Float64Array.from(column.values) }
      return [id, follows(sealed, hot) ? joinCurves([sealed, hot]) : mergeCurves(sealed, hot).curve]
    }),
  )
}

const follows = (first: Curve, second: Curve): boolean =>
  (first.times.at(-1) ?? -Infinity) < (second.times[0] ?? Infinity) && isAscending(second.times)

function isAscending(times: Float64Array): boolean {
  for (let index = 1; index < times.length; index += 1) if (times[index]! <= times[index - 1]!) return false
  return true
}

/** Where series sit in the rows that are not sealed. */
async function placesOf(db: Db, seriesIds: readonly number[]) {
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
  return { slots, layouts }
}

/** The part of a curve between two instants, both included, without a copy. */
export function cut({ times, values }: Curve, fromMs: number, toMs: number): Curve {
  const [start, end] = [lowerBound(times, fromMs), lowerBound(times, toMs, true)]
  return { times: times.subarray(start, end), values: values.subarray(start, end) }
}
