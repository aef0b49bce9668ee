import { sql } from 'kysely'
import { type ClusterMeasure, clusterOfKey } from '#core/compute'
import type { Db } from '../platform/connect.ts'
import { findOurSource } from '../sources/ourSources.ts'

/** What is known of a host that counts in a cluster. */
export const HOST_MEASURES = [
  'system.cpu.utilization',
  'system.memory.utilization',
  'system.memory.limit',
] as const
const HOST_KINDS = ['server', 'host'] as const
export type HostMeasure = (typeof HOST_MEASURES)[number]

/** A host, and the series that tell of it as a whole; of several sources that tell the same, all of them. */
export interface ClusterHost {
  readonly cluster: string
  readonly gearId: number
  readonly name: string
  readonly processors: number | null
  /** How often the slowest of its sources is read. */
  readonly intervalMs: number
  readonly series: Readonly<Record<HostMeasure, readonly number[]>>
}

/** The hosts that say which cluster they belong to. */
export async function listClusterHosts(db: Db): Promise<ClusterHost[]> {
  const rows = await db
    .selectFrom('gear')
    .innerJoin('series', 'series.gearId', 'gear.id')
    .innerJoin('source', 'source.id', 'series.sourceId')
    .select(['gear.id as gearId', 'gear.name', 'series.id', 'series.measure', 'source.intervalSeconds'])
    .select(sql<string>`gear.facts ->> 'cluster'`.as('cluster'))
    .select(sql<string | null>`gear.facts ->> 'processors'`.as('processors'))
    .where('gear.kind', 'in', [...HOST_KINDS])
    .where('gear.mergedInto', 'is', null)
    .where(sql<boolean>`coalesce(gear.facts ->> 'cluster', '') <> ''`)
    .where('series.partId', 'is', null)
    .where('series.measure', 'in', [...HOST_MEASURES])
    .orderBy('gear.name')
    .orderBy('series.id')
    .execute()
  const hosts = new Map<number, ClusterHost>()
  for (const { gearId, name, id, measure, cluster, processors, intervalSeconds } of rows) {
    const count = Number(processors)
    const host = hosts.get(gearId) ?? {
      gearId,
      name,
      cluster,
      processors: Number.isInteger(count) && count > 0 ? count : null,
      intervalMs: 0,
      series: { 'system.cpu.utilization': [], 'system.memory.utilization': [], 'system.memory.limit': [] },
    }
    const known = host.series[measure as HostMeasure]
    const intervalMs = Math.max(host.intervalMs, intervalSeconds * 1000)
    hosts.set(gearId, { ...host, intervalMs, series: { ...host.series, [measure]: [...known, id] } })
  }
  return [...hosts.values()]
}

/** The hosts of a cluster, as gear: those that say its name. */
export async function hostsOfCluster(db: Db, clusterId: number): Promise<number[]> {
  const sourceId = await findOurSource(db, 'clusters')
  if (sourceId === null) return []
  const seen = await db
    .selectFrom('sighting')
    .select('key')
    .where('sourceId', '=', sourceId)
    .where('gearId', '=', clusterId)
    .execute()
  if (seen.length === 0) return []
  const rows = await db
    .selectFrom('gear')
    .select('id')
    .where('kind', 'in', [...HOST_KINDS])
    .where('mergedInto', 'is', null)
    .where(sql<boolean>`facts ->> 'cluster' = any(${seen.map(({ key }) => clusterOfKey(key))}::text[])`)
    .execute()
  return rows.map(({ id }) => id)
}

/** A series of a cluster as a whole. */
export interface ClusterSeries {
  readonly cluster: string
  readonly sourceId: number
  readonly id: number
  readonly measure: ClusterMeasure
}

export async function listClusterSeries(db: Db): Promise<ClusterSeries[]> {
  const sourceId = await findOurSource(db, 'clusters')
  if (sourceId === null) return []
  const rows = await db
    .selectFrom('series')
    .innerJoin('gear', 'gear.id', 'series.gearId')
    // By the name that its hosts say, whatever people call it.
    .innerJoin('sighting', (join) =>
      join.onRef('sighting.gearId', '=', 'gear.id').onRef('sighting.sourceId', '=', 'series.sourceId'),
    )
    .select(['sighting.key', 'series.sourceId', 'series.id', 'series.measure'])
    .where('series.sourceId', '=', sourceId)
    .where('gear.kind', '=', 'cluster')
    .execute()
  return rows.map(({ key, ...row }) => ({
    ...row,
    cluster: clusterOfKey(key),
    measure: row.measure as ClusterMeasure,
  }))
}
