// How soon the page of a datastore knows what drives it: with five hundred machines on it, the most that are read.
// `node --import tsx bench/drivers.ts [MACHINES]`
import { drivenBy } from '#core/forecast'
import { hoursOfMany, sealPast } from '#db/readings'
import { listUsers } from '#db/forecast'
import type { Findings, GearFinding } from '#core/gear'
import { storeFindings } from '#db/gear'
import type { Db } from '#db/platform'
import { ensurePartitions } from '#db/readings'
import { insertSource } from '#db/sources'
import { report, spreadOf, timed } from './measure.ts'
import { openBenchCluster } from './store/cluster.ts'

const DAY_MS = 86_400_000
const PERIOD_DAYS = 30
const DAYS = 60
const TIMES = 30
const WARM = 5
const NOW = Math.floor(Date.now() / DAY_MS) * DAY_MS
const machines = Number(process.argv[2] ?? 500)

const gearOf = (key: string, kind: 'store' | 'machine', index: number): GearFinding => ({
  key,
  kind,
  name: key,
  identities: [{ kind: 'uuid', value: `00000000-0000-4000-9000-${String(index).padStart(12, '0')}` }],
  facts: {},
  parts: [],
})

/** One source that tells of all of them. @returns it, and the series of what each machine stores */
async function make(db: Db): Promise<{ sourceId: number; ids: readonly number[] }> {
  await ensurePartitions(db, NOW - DAY_MS, NOW + 2 * DAY_MS)
  const sourceId = await insertSource(db, {
    name: 'generated',
    protocol: 'otlp',
    address: 'generated',
    settings: {},
    intervalSeconds: 86_400,
    credentialId: null,
    token: 'rr_bench_generated_source',
  })
  const names = Array.from({ length: machines }, (_, index) => `machine-${index}`)
  const findings: Findings = {
    gear: [gearOf('store', 'store', 0), ...names.map((name, index) => gearOf(name, 'machine', index + 1))],
    links: names.map((name) => ({ kind: 'stores-on', from: name, to: 'store' })),
    readings: names.map((gear) => ({ gear, part: null, measure: 'system.filesystem.usage', value: 1e12 })),
  }
  const { placement } = await db
    .transaction()
    .execute((trx) => storeFindings(trx, { sourceId, atMs: Date.now(), findings }, null))
  return { sourceId, ids: placement.layout.seriesIds }
}

/** A reading each five minutes, growing. */
async function layDown(db: Db, sourceId: number, ids: readonly number[]): Promise<void> {
  for (let day = NOW / DAY_MS - DAYS; day < NOW / DAY_MS;) {
    const until = Math.min(NOW / DAY_MS, (Math.floor(day / PERIOD_DAYS) + 1) * PERIOD_DAYS)
    const times = Float64Array.from({ length: (until - day) * 288 }, (_, at) => day * DAY_MS + at * 300_000)
    const curves = new Map(
      ids.map((id, index) => [id, { times, values: times.map((at) => 1e12 + index * (at - NOW)) }]),
    )
    await sealPast(db, { sourceId, fromDay: day, days: until - day }, curves)
    day = until
  }
}

const cluster = await openBenchCluster()
try {
  const { db } = cluster
  const { sourceId, ids } = await make(db)
  await layDown(db, sourceId, ids)
  const store = await db.selectFrom('gear').select('id').where('kind', '=', 'store').executeTakeFirstOrThrow()
  const by = drivenBy({ measure: 'system.filesystem.utilization', gearKind: 'store', partKind: null })!
  const measured = await timed(TIMES + WARM, async () => {
    const { users } = await listUsers(db, [store.id], by)
    const hours = await hoursOfMany(
      db,
      users.flatMap(({ seriesIds }) => seriesIds),
      NOW - 30 * DAY_MS,
      NOW,
    )
    if (hours.size !== Math.min(500, machines)) throw new Error(`${hours.size} machines were read`)
  })
  const { median, p95 } = spreadOf(measured.slice(WARM))
  report('What drives a datastore', [
    {
      what: `${machines} machines, 30 days`,
      measured: `median ${median.toFixed(0)} ms, 95th percentile ${p95.toFixed(0)} ms`,
      limit: '95th percentile ≤ 300 ms',
      isMet: p95 <= 300,
    },
  ])
} finally {
  await cluster.close()
}
