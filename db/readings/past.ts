import { sql } from 'kysely'
import type { Curve } from '#core/readings'
import { type Db, within } from '../platform/connect.ts'
import { writeChunks } from './chunks.ts'
import { DAY_MS, PERIOD_DAYS } from './days.ts'
import { lockSource } from './seal.ts'
import { updateSummaries } from './summaries.ts'

/**
 * Seals readings of days long past at once, as chunks and summaries of the same form that sealing day by day and putting
 * together would leave. For what is laid down as a whole: nothing may be sealed of these days yet; a second call with the
 * same days takes the place of the first.
 * @param fromDay first of the days, counted from 1970-01-01
 * @param days how many; all of one period of thirty
 */
export async function sealPast(
  db: Db,
  { sourceId, fromDay, days }: { readonly sourceId: number; readonly fromDay: number; readonly days: number },
  curves: ReadonlyMap<number, Curve>,
): Promise<void> {
  if (Math.floor(fromDay / PERIOD_DAYS) !== Math.floor((fromDay + days - 1) / PERIOD_DAYS))
    throw new RangeError(`${days} days from ${fromDay} on are not of one period`)
  await within(db, async (trx) => {
    await lockSource(trx, sourceId)
    const all = [...curves]
    await writeChunks(
      trx,
      all.map(([seriesId, curve]) => ({ seriesId, day: fromDay, days, curve })),
    )
    await updateSummaries(
      trx,
      all.flatMap(([seriesId, curve]) => daysWith(curve).map((day) => ({ seriesId, day, curve }))),
    )
  })
}

/** The first day that is sealed of each of these series, counted from 1 January 1970. */
export async function firstSealedDays(db: Db, seriesIds: readonly number[]): Promise<Map<number, number>> {
  const rows = await db
    .selectFrom('chunk')
    .select(['seriesId', (eb) => eb.fn.min('day').as('day')])
    .where(sql<boolean>`series_id = any(${[...seriesIds]}::int[])`)
    .groupBy('seriesId')
    .execute()
  return new Map(rows.map(({ seriesId, day }) => [seriesId, day]))
}

const daysWith = (curve: Curve): number[] => {
  const days: number[] = []
  for (const atMs of curve.times) {
    const day = Math.floor(atMs / DAY_MS)
    if (days.at(-1) !== day) days.push(day)
  }
  return days
}
