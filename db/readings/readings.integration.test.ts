import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Db } from '../platform/connect.ts'
import { storeFindings } from '../gear/findings.ts'
import {
  ensurePartitions,
  insertMoments,
  latestReadings,
  layoutFor,
  readSpan,
  recentMoments,
} from './index.ts'
import { insertSource } from '../sources/sources.ts'
import { freshDatabase } from '../testing/database.ts'
import { serverFindings } from '../testing/findings.ts'
import { everyLatest } from '../testing/latest.ts'

const NOON = Date.UTC(2026, 10, 24, 12)
let db: Db
let drop: () => Promise<void>
let count = 0

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, NOON, NOON + 86_400_000)
})
afterAll(() => drop())

async function source(): Promise<number> {
  count += 1
  return insertSource(db, {
    name: `source ${count}`,
    protocol: 'redfish',
    address: 'https://127.0.0.1',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
}
/** A server of its own for each source, so that sources do not meet. */
const own = (rest: Parameters<typeof serverFindings>[0] = {}) =>
  serverFindings({ identities: [{ kind: 'serial', value: `S-${count}` }], ...rest })

async function seriesOf(sourceId: number): Promise<Record<string, number>> {
  const rows = await db
    .selectFrom('series')
    .select(['id', 'measure'])
    .where('sourceId', '=', sourceId)
    .execute()
  return Object.fromEntries(rows.map((row) => [row.measure, row.id]))
}

describe('a moment', () => {
  test('is stored once, however often it comes', async () => {
    const sourceId = await source()
    const moment = { sourceId, atMs: NOON, findings: own() }
    const first = await storeFindings(db, moment, null)
    const second = await storeFindings(db, moment, first.placement)
    const third = await storeFindings(db, moment, null)
    expect([first.stored, second.stored, third.stored]).toEqual(['stored', 'duplicate', 'duplicate'])
    const rows = await db.selectFrom('hot').select('ts').where('sourceId', '=', sourceId).execute()
    expect(rows).toHaveLength(1)
  })

  test('that comes in two halves is put together', async () => {
    const sourceId = await source()
    await storeFindings(db, { sourceId, atMs: NOON, findings: own({ rpm: 5000, watts: null }) }, null)
    const second = await storeFindings(
      db,
      { sourceId, atMs: NOON, findings: own({ rpm: null, watts: 260 }) },
      null,
    )
    expect(second.stored).toBe('merged')
    const series = await seriesOf(sourceId)
    expect((await readSpan(db, series['hw.fan.speed']!, NOON, NOON)).values).toEqual(Float64Array.of(5000))
    expect((await readSpan(db, series['hw.power']!, NOON, NOON)).values).toEqual(Float64Array.of(260))
  })

  test('with other series than before keeps what the other half brought', async () => {
    const sourceId = await source()
    const { placement } = await storeFindings(db, { sourceId, atMs: NOON, findings: own() }, null)
    const [fan, power] = placement.layout.seriesIds
    const id = await layoutFor(db, sourceId, [power!])
    const atMs = NOON + 1000
    const part = { sourceId, atMs, layout: { id, seriesIds: [power!] }, values: [7] }
    expect(await insertMoments(db, [part])).toEqual(['stored'])
    const whole = { sourceId, atMs, layout: placement.layout, values: [4000, 8] }
    expect(await insertMoments(db, [whole, whole, part])).toEqual(['merged', 'duplicate', 'merged'])
    const corrections = await db
      .selectFrom('correction')
      .select(['was', 'became'])
      .where('seriesId', '=', power!)
      .orderBy('id')
      .execute()
    expect(corrections, 'both values are kept; the later one is read').toEqual([
      { was: 7, became: 8 },
      { was: 8, became: 7 },
    ])
    expect((await readSpan(db, power!, NOON + 1000, NOON + 1000)).values).toEqual(Float64Array.of(7))
    expect((await readSpan(db, fan!, NOON + 1000, NOON + 1000)).values).toEqual(Float64Array.of(4000))
  })
})

test('a span comes back in order, whatever the order it came in, missing values left out', async () => {
  const sourceId = await source()
  for (const [atMs, rpm] of [
    [NOON + 20_000, 3],
    [NOON, 1],
    [NOON + 10_000, null],
    [NOON + 30_000, 4],
  ] as const) {
    await storeFindings(db, { sourceId, atMs, findings: own({ rpm }) }, null)
  }
  const { 'hw.fan.speed': fan } = await seriesOf(sourceId)
  const curve = await readSpan(db, fan!, NOON, NOON + 20_000)
  expect([...curve.times]).toEqual([NOON, NOON + 20_000])
  expect([...curve.values]).toEqual([1, 3])
})

test('a new part makes a new layout, and old rows keep theirs', async () => {
  const sourceId = await source()
  await storeFindings(db, { sourceId, atMs: NOON, findings: own({ rpm: 1111 }) }, null)
  const grown = own({ rpm: 2222 })
  const second = {
    ...grown,
    gear: [
      {
        ...grown.gear[0]!,
        parts: [{ key: 'fan 0', kind: 'fan' as const, name: 'Fan 0', facts: {} }, ...grown.gear[0]!.parts],
      },
    ],
    readings: [
      { gear: 'server', part: 'fan 0', measure: 'hw.fan.speed' as const, value: 9999 },
      ...grown.readings,
    ],
  }
  await storeFindings(db, { sourceId, atMs: NOON + 10_000, findings: second }, null)
  const rows = await db
    .selectFrom('series')
    .innerJoin('part', 'part.id', 'series.partId')
    .select(['series.id', 'part.key'])
    .where('series.sourceId', '=', sourceId)
    .execute()
  const spans = await Promise.all(
    rows.map(
      async ({ id, key }) => [key, [...(await readSpan(db, id, NOON, NOON + 10_000)).values]] as const,
    ),
  )
  expect(Object.fromEntries(spans)).toEqual({ 'fan 1': [1111, 2222], 'fan 0': [9999] })
})

test('the latest is the last row of each source; a value it lacks is unknown, not the one before', async () => {
  const sourceId = await source()
  await storeFindings(db, { sourceId, atMs: NOON, findings: own({ rpm: 5000 }) }, null)
  await storeFindings(db, { sourceId, atMs: NOON + 10_000, findings: own({ rpm: null, watts: 300 }) }, null)
  const series = await seriesOf(sourceId)
  const latest = await latestReadings(db, [sourceId])
  expect(latest.get(series['hw.fan.speed']!)).toMatchObject({ value: null, atMs: NOON + 10_000 })
  expect(latest.get(series['hw.power']!)?.value).toBe(300)
  expect(everyLatest(await latestReadings(db, []))).toEqual([])
})

test('what a rule looks back on comes oldest first and ends where it is told', async () => {
  const sourceId = await source()
  for (let step = 0; step < 6; step += 1) {
    await storeFindings(db, { sourceId, atMs: NOON + step * 10_000, findings: own({ rpm: step }) }, null)
  }
  const { 'hw.fan.speed': fan } = await seriesOf(sourceId)
  const moments = await recentMoments(db, sourceId, NOON + 40_000, 3)
  expect(moments.map((moment) => moment.values.get(fan!))).toEqual([2, 3, 4])
})

test('a moment on a day without a partition is refused, not lost in silence', async () => {
  const sourceId = await source()
  await expect(
    storeFindings(db, { sourceId, atMs: NOON - 40 * 86_400_000, findings: own() }, null),
  ).rejects.toThrow(/partition/)
})
