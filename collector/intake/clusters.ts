import { clusterFindings, type NamedHost } from '#core/compute'
import { GONE_MS } from '#core/past'
import { listClusterHosts } from '#db/compute'
import type { Db } from '#db/platform'
import { latestReadings } from '#db/readings'
import { ourSource } from '#db/sources'
import type { Taken } from './delivery.ts'

/** So often clusters are summed up. */
export const CLUSTERS_MS = 60_000
/** A value that is older, and older than three intervals of its source, is not that of now. */
const OLD_MS = 5 * 60_000

/** Sums up what hosts use that say which cluster they belong to, as if a source told of their clusters. */
export class Clusters {
  constructor(
    private readonly db: Db,
    private readonly own: {
      readonly isFirst: () => Promise<boolean>
      readonly take: (taken: Taken) => Promise<void>
      /** There is the first cluster. */
      readonly onFirst: () => Promise<void>
    },
  ) {}

  async look(nowMs: number): Promise<void> {
    if (!(await this.own.isFirst())) return
    const hosts = await listClusterHosts(this.db)
    if (hosts.length === 0) return
    const latest = await latestReadings(this.db)
    const clusters = new Map<string, NamedHost[]>()
    for (const { cluster, name, processors, intervalMs, series } of hosts) {
      const newest = (ids: readonly number[]): { atMs: number; value: number | null } =>
        ids
          .map((id) => latest.get(id) ?? { atMs: -Infinity, value: null })
          .reduce((a, b) => (b.atMs > a.atMs ? b : a), { atMs: -Infinity, value: null })
      const [processor, used, whole] = [
        newest(series['system.cpu.utilization']),
        newest(series['system.memory.utilization']),
        newest(series['system.memory.limit']),
      ]
      const heardMs = Math.max(processor.atMs, used.atMs)
      if (nowMs - heardMs > GONE_MS) continue
      const now = ({ atMs, value }: { atMs: number; value: number | null }): number | null =>
        nowMs - atMs > Math.max(OLD_MS, 3 * intervalMs) ? null : value
      clusters.set(cluster, [
        ...(clusters.get(cluster) ?? []),
        { name, processors, processorUse: now(processor), memoryUse: now(used), memory: now(whole) },
      ])
    }
    if (clusters.size === 0) return
    const { sourceId, isNew } = await ourSource(this.db, 'clusters', CLUSTERS_MS / 1000)
    const findings = clusterFindings(clusters)
    await this.own.take({ sourceId, atMs: nowMs, heardAtMs: nowMs, durationMs: null, findings })
    if (isNew) await this.own.onFirst()
  }
}
