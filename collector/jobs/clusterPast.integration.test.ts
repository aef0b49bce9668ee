import { afterAll, beforeAll, expect, test } from 'vitest'
import type { MeasureKey } from '#core/catalogue'
import { DAY_MS, HOUR_MS } from '#core/forecast'
import type { Findings } from '#core/gear'
import { listClusterHosts, listClusterSeries } from '#db/compute'
import { listForecasts } from '#db/forecast'
import { storeMoments } from '#db/gear'
import type { Db } from '#db/platform'
import { ensurePartitions, latestReadings, readSpan, sealPast } from '#db/readings'
import { freshDatabase } from '#db/testing/database'
import { madeSource } from '#db/testing/series'
import { Clusters } from '../intake/clusters.ts'
import type { Taken } from '../intake/delivery.ts'
import { fillClusterPasts } from './clusterPast.ts'
import { makeForecasts } from './forecasting.ts'

const NOW = Date.UTC(2026, 10, 27, 12)
const TODAY = Math.floor(NOW / DAY_MS)
const GIB = 1024 ** 3
const HOSTS = [
  { name: 'auk-1', gib: 256, processors: '32' },
  { name: 'auk-2', gib: 256, processors: '32' },
  { name: 'auk-3', gib: 512, processors: '64' },
]
/** A quarter of 1,024 GiB was used 120 days ago; 1.5 GiB a day more. 512 are left without the largest host. */
const usedGib = (atMs: number): number => 436 + (1.5 * (atMs - NOW)) / DAY_MS
const over = new AbortController().signal
const bounds = { now: () => NOW, over }
let db: Db
let drop: () => Promise<void>
const sources = new Map<string, number>()

const take = (taken: Taken): Promise<void> =>
  db.transaction().execute(async (trx) => void (await storeMoments(trx, [taken], new Map())))
let firsts = 0
const clusters = (): Clusters =>
  new Clusters(db, {
    isFirst: () => Promise.resolve(true),
    take,
    onFirst: async () => void (firsts += 1),
  })
/** Each host is told of by a source of its own. */
async function tell(atMs: number, names: readonly string[]): Promise<void> {
  for (const { name, gib, processors } of HOSTS.filter((each) => names.includes(each.name))) {
    const readings = Object.entries({
      'system.cpu.utilization': name === 'auk-3' ? 0.5 : 0.25,
      'system.memory.utilization': usedGib(atMs) / 1024,
      'system.memory.limit': gib * GIB,
    }).map(([measure, value]) => ({ gear: name, part: null, measure: measure as MeasureKey, value }))
    const identities = [{ kind: 'uuid' as const, value: `uuid of ${name}` }]
    const facts = { cluster: 'skerry', processors }
    const findings: Findings = {
      gear: [{ key: name, kind: 'server', name, identities, facts, parts: [] }],
      links: [],
      readings,
    }
    await take({ sourceId: sources.get(name)!, atMs, heardAtMs: atMs, durationMs: null, findings })
  }
}
async function newest(): Promise<Record<string, number | null | undefined>> {
  const [series, latest] = [await listClusterSeries(db), await latestReadings(db)]
  return Object.fromEntries(series.map(({ id, measure }) => [measure, latest.get(id)?.value]))
}

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, NOW - DAY_MS, NOW + 3 * DAY_MS)
  const all = HOSTS.map(({ name }) => name)
  for (const name of all) sources.set(name, await madeSource(db, name))
  await tell(NOW - 60_000, all)
  const curve = (fromDay: number, days: number) => {
    const times = Float64Array.from({ length: days * 24 }, (_, hour) => fromDay * DAY_MS + hour * HOUR_MS)
    return { times, values: times.map((at) => usedGib(at) / 1024) }
  }
  for (const [index, { series }] of (await listClusterHosts(db)).entries()) {
    const [id] = series['system.memory.utilization']
    const sourceId = sources.get(all[index]!)!
    for (let day = TODAY - 120; day < TODAY; day += 30 - (day % 30)) {
      const days = Math.min(TODAY, day + 30 - (day % 30)) - day
      await sealPast(db, { sourceId, fromDay: day, days }, new Map([[id!, curve(day, days)]]))
    }
  }
}, 60_000)
afterAll(() => drop())

test('a cluster is summed up over its hosts, and over those that are left without the largest', async () => {
  await clusters().look(NOW)
  const use = await newest()
  expect(use['system.memory.limit']).toBe(1024 * GIB)
  expect(use['system.memory.usage']! / GIB).toBeCloseTo(436, 1)
  expect(use['system.memory.less_largest']).toBeCloseTo(436 / 512, 4)
  // 8 + 8 + 32 of 128 processors are busy; 64 are left without the largest host.
  expect(use['system.cpu.utilization']).toBeCloseTo(0.375)
  expect(use['system.cpu.less_largest']).toBeCloseTo(0.75)
})

test('it has the past of its hosts at once, made once, and is forecast from it', async () => {
  expect(await fillClusterPasts(db, bounds)).toBe(120)
  expect(await fillClusterPasts(db, bounds)).toBe(0)
  const { id } = (await listClusterSeries(db)).find(({ measure }) => measure === 'system.memory.usage')!
  const { times, values } = await readSpan(db, id, NOW - 121 * DAY_MS, NOW - DAY_MS)
  expect(times.length).toBeGreaterThan(100 * 288)
  times.forEach((at, index) => {
    const off = values[index]! / GIB - usedGib(at)
    // It is what was last told within the hour before.
    if (off > 0.001 || off < -1.5 / 24 - 0.01) throw new Error(`${values[index]} at ${new Date(at)}`)
  })
  await makeForecasts(db, bounds)
  const rows = await listForecasts(db, ['crosses', 'not-in-sight', 'over', 'too-little'])
  const lost = rows.find(({ measure }) => measure === 'system.memory.less_largest')!
  expect(lost).toMatchObject({ gear: 'skerry', gearKind: 'cluster', verdict: 'crosses', topic: 'Compute' })
  expect(lost.body.line.words).toBe('no host can be lost')
  // 512 GiB are reached (512 − 436) / 1.5 = 50.7 days from now.
  expect((lost.runOutMs! - NOW) / DAY_MS).toBeGreaterThan(47)
  expect((lost.runOutMs! - NOW) / DAY_MS).toBeLessThan(54)
})

test('a cluster goes by the name that its hosts say, whatever people call it', async () => {
  await db.updateTable('gear').set({ name: 'the skerry' }).where('kind', '=', 'cluster').execute()
  expect(new Set((await listClusterSeries(db)).map(({ cluster }) => cluster))).toEqual(new Set(['skerry']))
  await clusters().look(NOW + 60_000)
  expect(await db.selectFrom('gear').select('name').where('kind', '=', 'cluster').execute()).toHaveLength(1)
})

test('while a host is not heard there is no value; after a day the cluster goes on without it', async () => {
  const later = NOW + 10 * 60_000
  await tell(later, ['auk-1', 'auk-2'])
  await clusters().look(later)
  expect(await newest()).toMatchObject({ 'system.memory.usage': null, 'system.cpu.utilization': null })
  const nextDay = NOW + 25 * HOUR_MS
  await tell(nextDay, ['auk-1', 'auk-2'])
  await clusters().look(nextDay)
  expect(firsts, 'it is made once').toBe(1)
  expect((await newest())['system.memory.limit']).toBe(512 * GIB)
})
