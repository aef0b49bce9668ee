import { setImmediate as breathe } from 'node:timers/promises'
import { clusterPast, type HostPast } from '#core/compute'
import { DAY_MS } from '#core/forecast'
import type { Curve } from '#core/readings'
import {
  type ClusterHost,
  type ClusterSeries,
  type HostMeasure,
  listClusterHosts,
  listClusterSeries,
} from '#db/compute'
import { type Db, readDemoProgress } from '#db/platform'
import { firstSealedDays, latestReadings, type LatestReadings, rasters, sealPast } from '#db/readings'
import type { Bounds } from './job.ts'
import { curveOf, PAST_DAYS, type Stretch, stretchesOf } from './madePast.ts'

const STEP_MS = 5 * 60_000

/** What of a cluster is made from which measure of its hosts: each has a past of its own. */
const MADE_FROM = {
  processor: 'system.cpu.utilization',
  memory: 'system.memory.utilization',
} as const satisfies Record<string, HostMeasure>
type Made = keyof typeof MADE_FROM
const madeOf = (measure: string): Made => (measure.startsWith('system.cpu.') ? 'processor' : 'memory')

/**
 * A cluster that is summed up for the first time gets a past from that of its hosts, the newest days first, so that it can
 * be looked back at and forecast at once. What is there already stays as it is.
 * @returns how many days were made, over all clusters
 */
export async function fillClusterPasts(db: Db, { now, over }: Pick<Bounds, 'now' | 'over'>): Promise<number> {
  const series = await listClusterSeries(db)
  if (series.length === 0) return 0
  // While the past of the demo is laid down that of some hosts is there, and of others not.
  const laid = (await readDemoProgress(db))?.laid ?? 'all'
  const ready = { nothing: [], finite: ['memory'], all: ['memory', 'processor'] } as const
  const hosts = await listClusterHosts(db)
  const today = Math.floor(now() / DAY_MS)
  let days = 0
  for (const name of new Set(series.map(({ cluster }) => cluster)))
    for (const made of ready[laid]) {
      const own = series.filter(({ cluster, measure }) => cluster === name && madeOf(measure) === made)
      const cluster = { made, own, members: hosts.filter(({ cluster: of }) => of === name) }
      for (const stretch of await missing(db, cluster, today)) {
        if (over.aborted) return days
        await fill(db, cluster, stretch)
        days += stretch.days
        await breathe()
      }
    }
  return days
}

interface Cluster {
  readonly made: Made
  readonly own: readonly ClusterSeries[]
  readonly members: readonly ClusterHost[]
}

/** Days of which hosts have a past and their cluster has none, the newest first, each within one period of the store. */
async function missing(db: Db, { made, own, members }: Cluster, today: number): Promise<Stretch[]> {
  const hostIds = members.flatMap(({ series }) => series[MADE_FROM[made]])
  const first = await firstSealedDays(db, [...own.map(({ id }) => id), ...hostIds])
  const earliest = (ids: readonly number[]): number =>
    ids.reduce((day, id) => Math.min(day, first.get(id) ?? Infinity), Infinity)
  const from = Math.max(today - PAST_DAYS, earliest(hostIds))
  return stretchesOf(from, Math.min(today, earliest(own.map(({ id }) => id))))
}

async function fill(db: Db, { own, members }: Cluster, { fromDay, days }: Stretch): Promise<void> {
  const raster = { fromMs: fromDay * DAY_MS, stepMs: STEP_MS, columns: (days * DAY_MS) / STEP_MS }
  const ids = members.flatMap(({ series }) => Object.values(series).flat())
  const [{ rows }, latest] = [await rasters(db, ids, raster), await latestReadings(db)]
  const columnOf = (of: readonly number[]): Float64Array => {
    const made = new Float64Array(raster.columns).fill(NaN)
    // Of several sources that tell the same the first that was heard.
    for (const id of of)
      rows.get(id)?.last.forEach((value, column) => {
        if (Number.isNaN(made[column]!)) made[column] = value
      })
    return made
  }
  const pasts = members.map(({ processors, series }): HostPast => ({
    processors,
    processorUse: columnOf(series['system.cpu.utilization']),
    memoryUse: columnOf(series['system.memory.utilization']),
    memory: held(columnOf(series['system.memory.limit']), nowOf(latest, series['system.memory.limit'])),
  }))
  const made = clusterPast(pasts, raster)
  const curves = new Map<number, Curve>()
  for (const { id, measure } of own) {
    const curve = curveOf(made[measure], raster)
    if (curve.times.length > 0) curves.set(id, curve)
  }
  if (curves.size > 0) await sealPast(db, { sourceId: own[0]!.sourceId, fromDay, days }, curves)
}

const nowOf = (latest: LatestReadings, ids: readonly number[]): number =>
  ids.map((id) => latest.get(id)?.value ?? NaN).find((value) => !Number.isNaN(value)) ?? NaN

/** How much memory a host has changes seldom: where it was not told, it was what is told next. */
function held(values: Float64Array, after: number): Float64Array {
  let known = after
  for (let column = values.length - 1; column >= 0; column -= 1) {
    if (Number.isNaN(values[column]!)) values[column] = known
    else known = values[column]!
  }
  return values
}
