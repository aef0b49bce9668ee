import { Worker } from 'node:worker_threads'
import { ensurePartitions, insertMoments } from '#db/readings'
import { spreadOf, type Verdict } from '../measure.ts'
import { type BenchCluster, makeSources } from './cluster.ts'
import { mixedSeries } from './mix.ts'

const DAY = 86_400_000
const START = 20_700 * DAY

/** The 95th percentile of a commit of 10,000 readings while days are being sealed in their thread, against idle. */
export async function benchSealing({ db, url }: BenchCluster): Promise<Verdict[]> {
  const sources = await makeSources(db, 100, 100)
  const makers = mixedSeries(10_000)
  let minute = 0
  const cycle = () => {
    let next = 0
    const at = minute++
    return sources.map(({ sourceId, layout }) => ({
      sourceId,
      atMs: START + at * 60_000,
      layout,
      values: layout.seriesIds.map(() => makers[next++]!(at)),
    }))
  }
  // A whole day to seal, then the next one begins.
  await ensurePartitions(db, START, START + 3 * DAY)
  for (let count = 0; count < 1440; count += 10) {
    const moments = Array.from({ length: 10 }, cycle).flat()
    await db.transaction().execute((trx) => insertMoments(trx, moments))
  }
  const measure = async (count: number, isOver: () => boolean): Promise<number[]> => {
    const measured: number[] = []
    while (measured.length < count && !isOver()) {
      const moments = cycle()
      const startedMs = performance.now()
      await db.transaction().execute((trx) => insertMoments(trx, moments))
      measured.push(performance.now() - startedMs)
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    return measured
  }
  const idle = spreadOf(await measure(150, () => false))
  let isSealed = false
  const worker = new Worker(new URL('./sealer.mjs', import.meta.url), {
    workerData: { url, nowMs: START + DAY + 3_600_000 },
  })
  const sealed = new Promise<number>((resolve, reject) => {
    worker.once('message', resolve)
    worker.once('error', reject)
  }).finally(() => {
    isSealed = true
  })
  const busyMs = await measure(1000, () => isSealed)
  const moved = await sealed
  const busy = spreadOf(busyMs)
  return [
    {
      what: '95th percentile of ingest while sealing, against idle',
      measured: `${(busy.p95 / idle.p95).toFixed(2)} (${busy.p95.toFixed(1)} ms against ${idle.p95.toFixed(1)} ms; medians ${busy.median.toFixed(1)} and ${idle.median.toFixed(1)} ms; ${moved} rows sealed during ${busyMs.length} commits)`,
      limit: '≤ 1.6',
      isMet: busy.p95 / idle.p95 <= 1.6 && busyMs.length >= 50,
    },
  ]
}
