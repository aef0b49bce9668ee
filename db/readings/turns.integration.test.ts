import { afterAll, beforeAll, expect, test } from 'vitest'
import type { MeasureKey } from '#core/catalogue'
import { thin } from '#core/sources'
import type { Db } from '../platform/connect.ts'
import { type Placement, storeMoments, withNewest } from '../gear/findings.ts'
import { listSeries, listGear } from '../gear/gear.ts'
import { ensurePartitions, latestReadings, readSpan } from './index.ts'
import { insertSource, openSources, updateSource } from '../sources/sources.ts'
import { freshDatabase } from '../testing/database.ts'
import { serverFindings } from '../testing/findings.ts'

// Measures that are kept less often than their source is asked: rows hold now everything, now only the rest.

let db: Db
let drop: () => Promise<void>
const START = Math.floor(Date.now() / 86_400_000) * 86_400_000

beforeAll(async () => {
  const fresh = await freshDatabase()
  db = fresh.db
  drop = fresh.drop
  await ensurePartitions(db, START, START)
})
afterAll(() => drop())

test('each at its own interval; the newest of each is known with its instant', async () => {
  const sourceId = await insertSource(db, {
    name: 'x',
    protocol: 'redfish',
    address: 'x',
    settings: {},
    intervalSeconds: 60,
    credentialId: null,
    token: null,
  })
  await updateSource(db, sourceId, {
    name: 'x',
    intervalSeconds: 60,
    newItems: 'take',
    slower: { 'hw.power': 300 },
  })
  const [source] = await openSources(db, Buffer.alloc(32))
  expect(source!.slower).toEqual({ 'hw.power': 300 })
  const last = new Map<MeasureKey, number>()
  let placements: readonly Placement[] = []
  let placed = 0
  const keep = async (minute: number, rpm: number | null, watts: number) => {
    const atMs = START + minute * 60_000
    const findings = thin(serverFindings({ rpm, watts }), {
      atMs,
      intervalMs: 60_000,
      slower: source!.slower,
      last,
    })
    const [result] = await storeMoments(db, [{ sourceId, atMs, findings }], new Map([[sourceId, placements]]))
    if (!placements.includes(result!.placement)) placed += 1
    placements = withNewest(placements, result!.placement)
  }
  for (let minute = 0; minute <= 13; minute += 1) await keep(minute, 4000 + minute, 200 + minute)
  // Two shapes in turns are placed once each.
  expect(placed).toBe(2)
  const [gear] = await listGear(db)
  const series = await listSeries(db, [gear!.id])
  const of = (measure: MeasureKey) => series.find((each) => each.measure === measure)!.id
  const power = await readSpan(db, of('hw.power'), START, START + 3_600_000)
  expect([...power.times].map((atMs) => (atMs - START) / 60_000)).toEqual([0, 5, 10])
  expect((await readSpan(db, of('hw.fan.speed'), START, START + 3_600_000)).times).toHaveLength(14)

  const latest = await latestReadings(db, [sourceId])
  expect(latest.get(of('hw.power'))).toMatchObject({ value: 210, atMs: START + 600_000 })
  expect(latest.get(of('hw.fan.speed'))).toMatchObject({ value: 4013, atMs: START + 13 * 60_000 })
  expect((await latestReadings(db)).get(of('hw.power'))).toMatchObject({ value: 210 })
  // What has no value now has none, whatever it had a row ago.
  await keep(14, null, 214)
  expect((await latestReadings(db, [sourceId])).get(of('hw.fan.speed'))).toMatchObject({ value: null })
})
