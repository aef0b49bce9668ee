import { sql } from 'kysely'
import { z } from 'zod'
import type { ClusterMeasure } from '#core/compute'
import { type Db, within } from '../platform/connect.ts'
import { insertSource } from '../sources/sources.ts'

/** What is known of a host that counts in a cluster. */
export const HOST_MEASURES = [
  'system.cpu.utilization',
  'system.memory.utilization',
  'system.memory.limit',
] as const
export type HostMeasure = (typeof HOST_MEASURES)[number]

/** A host, and the series that tell of it as a whole; of several sources that tell the same, all of them. */
export interface ClusterHost {
  readonly cluster: string
  readonly gearId: number
  readonly name: string
  readonly processors: number | null
  readonly series: Readonly<Record<HostMeasure, readonly number[]>>
}

/** The hosts that say which cluster they belong to. */
export async function listClusterHosts(db: Db): Promise<ClusterHost[]> {
  const rows = await db
    .selectFrom('gear')
    .innerJoin('series', 'series.gearId', 'gear.id')
    .select(['gear.id as gearId', 'gear.name', 'series.id', 'series.measure'])
    .select(sql<string>`gear.facts ->> 'cluster'`.as('cluster'))
    .select(sql<string | null>`gear.facts ->> 'processors'`.as('processors'))
    .where('gear.kind', '=', 'server')
    .where('gear.mergedInto', 'is', null)
    .where(sql<boolean>`coalesce(gear.facts ->> 'cluster', '') <> ''`)
    .where('series.partId', 'is', null)
    .where('series.measure', 'in', [...HOST_MEASURES])
    .orderBy('gear.name')
    .orderBy('series.id')
    .execute()
  const hosts = new Map<number, ClusterHost>()
  for (const { gearId, name, id, measure, cluster, processors } of rows) {
    const count = Number(processors)
    const host = hosts.get(gearId) ?? {
      gearId,
      name,
      cluster,
      processors: Number.isInteger(count) && count > 0 ? count : null,
      series: { 'system.cpu.utilization': [], 'system.memory.utilization': [], 'system.memory.limit': [] },
    }
    const known = host.series[measure as HostMeasure]
    hosts.set(gearId, { ...host, series: { ...host.series, [measure]: [...known, id] } })
  }
  return [...hosts.values()]
}

/** The source under which clusters are kept, made when there is the first one. */
export async function clusterSource(
  db: Db,
  intervalSeconds: number,
): Promise<{ readonly sourceId: number; readonly isNew: boolean }> {
  const known = await knownSource(db)
  if (known !== null) return { sourceId: known, isNew: false }
  return within(db, async (trx) => {
    await sql`select pg_advisory_xact_lock(7305)`.execute(trx)
    const there = await knownSource(trx)
    if (there !== null) return { sourceId: there, isNew: false }
    const sourceId = await insertSource(trx, {
      name: 'Clusters',
      protocol: 'otlp',
      address: 'summed up over their hosts',
      settings: {},
      intervalSeconds,
      credentialId: null,
      token: null,
    })
    const body = JSON.stringify({ sourceId })
    await trx
      .insertInto('setting')
      .values({ key: 'clusters', body })
      .onConflict((conflict) => conflict.column('key').doUpdateSet({ body }))
      .execute()
    return { sourceId, isNew: true }
  })
}

async function knownSource(db: Db): Promise<number | null> {
  const row = await db.selectFrom('setting').select('body').where('key', '=', 'clusters').executeTakeFirst()
  const id = z.object({ sourceId: z.number() }).safeParse(row?.body).data?.sourceId
  if (id === undefined) return null
  return (await db.selectFrom('source').select('id').where('id', '=', id).executeTakeFirst())?.id ?? null
}

/** A series of a cluster as a whole. */
export interface ClusterSeries {
  readonly cluster: string
  readonly sourceId: number
  readonly id: number
  readonly measure: ClusterMeasure
}

export async function listClusterSeries(db: Db): Promise<ClusterSeries[]> {
  const sourceId = await knownSource(db)
  if (sourceId === null) return []
  const rows = await db
    .selectFrom('series')
    .innerJoin('gear', 'gear.id', 'series.gearId')
    .select(['gear.name as cluster', 'series.sourceId', 'series.id', 'series.measure'])
    .where('series.sourceId', '=', sourceId)
    .where('gear.kind', '=', 'cluster')
    .execute()
  return rows.map((row) => ({ ...row, measure: row.measure as ClusterMeasure }))
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
