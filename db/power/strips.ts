import { sql } from 'kysely'
import type { Db } from '../platform/connect.ts'

/** A strip as one source tells of it, and what would move to it from others. */
export interface Strip {
  readonly sourceId: number
  /** Its key among what that source tells. */
  readonly key: string
  readonly gearId: number
  /** Series of its power as a whole. */
  readonly seriesId: number
  /** Of each strip that shares gear with it the outlets that feed that gear. */
  readonly neighbours: readonly (readonly Outlet[])[]
}

export interface Outlet {
  /** Series of its power. */
  readonly seriesId: number
  /** How often its source is read. */
  readonly intervalMs: number
}

/** The outlet of a strip that feeds a gear; of each the first series that tells of it. */
const OUTLETS = sql`
  select link.from_gear_id as gear_id, link.to_gear_id as strip_id, min(series.id) as series_id
  from link
  join gear strip on strip.id = link.to_gear_id and strip.kind = 'pdu' and strip.merged_into is null
  join series on series.part_id = link.to_part_id and series.measure = 'hw.power'
  where link.kind = 'fed-by'
  group by link.from_gear_id, link.to_gear_id, link.to_part_id`

/** The strips with metered outlets that share gear with others. */
export async function listStrips(db: Db): Promise<Strip[]> {
  const { rows } = await sql<{
    sourceId: number
    key: string
    gearId: number
    seriesId: number
    otherId: number
    outlets: Outlet[]
  }>`
    with outlet as (${OUTLETS}), shared as (
      select own.strip_id, other.strip_id as other_id, jsonb_agg(distinct jsonb_build_object(
        'seriesId', other.series_id, 'intervalMs', source.interval_seconds * 1000)) as outlets
      from outlet own
      join outlet other on other.gear_id = own.gear_id and other.strip_id <> own.strip_id
      join series on series.id = other.series_id
      join source on source.id = series.source_id
      group by own.strip_id, other.strip_id
    )
    select series.source_id as "sourceId", sighting.key, shared.strip_id as "gearId", series.id as "seriesId",
      shared.other_id as "otherId", shared.outlets
    from shared
    join series on series.gear_id = shared.strip_id and series.part_id is null and series.measure = 'hw.power'
    join sighting on sighting.source_id = series.source_id and sighting.gear_id = shared.strip_id
    order by series.id, sighting.key, shared.other_id`.execute(db.withoutPlugins())
  const strips = new Map<string, Strip>()
  for (const { sourceId, key, gearId, seriesId, outlets } of rows) {
    const place = `${sourceId} ${key}`
    const known = strips.get(place) ?? { sourceId, key, gearId, seriesId, neighbours: [] }
    strips.set(place, { ...known, neighbours: [...known.neighbours, outlets] })
  }
  return [...strips.values()]
}

/** The series of what strips would carry alone, by source and gear as `2 17`. */
export async function listAloneSeries(db: Db): Promise<Map<string, number>> {
  const rows = await db
    .selectFrom('series')
    .select(['id', 'sourceId', 'gearId'])
    .where('measure', '=', 'hw.power.alone')
    .where('partId', 'is', null)
    .execute()
  return new Map(rows.map(({ id, sourceId, gearId }) => [`${sourceId} ${gearId}`, id]))
}
