import { afterAll, beforeAll, expect, test } from 'vitest'
import type { GearKind, MeasureKey, PartKind } from '#core/catalogue'
import { findForecast } from '#db/forecast'
import { drawLink } from '#db/links'
import type { Db } from '#db/platform'
import { sealPast } from '#db/readings'
import { ourSource } from '#db/sources'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { madeSource } from '#db/testing/series'
import { makeForecasts } from '../../../collector/jobs/forecasting.ts'
import { whatDrives } from './drivers.ts'

const DAY_MS = 86_400_000
const TODAY = Math.floor(Date.now() / DAY_MS)
const NOW = TODAY * DAY_MS
const GIB = 1024 ** 3
const TIB = 1024 * GIB
const PAST_DAYS = 60
let db: Db
let drop: () => Promise<void>
let sourceId: number

async function gear(name: string, kind: GearKind, facts: Record<string, string> = {}): Promise<number> {
  const { id } = await db
    .insertInto('gear')
    .values({ name, kind, facts: JSON.stringify(facts), rackId: null, unit: null, heightUnits: null })
    .returning('id')
    .executeTakeFirstOrThrow()
  return id
}

async function part(gearId: number, name: string, kind: PartKind, isPresent = true): Promise<number> {
  const { id } = await db
    .insertInto('part')
    .values({ gearId, key: `${kind} ${name}`, kind, name, facts: '{}', isPresent })
    .returning('id')
    .executeTakeFirstOrThrow()
  return id
}

/** A series with a reading an hour over the last days. */
async function series(
  of: { gearId: number; partId?: number },
  measure: MeasureKey,
  valueOf: (daysAgo: number) => number,
  days = PAST_DAYS,
): Promise<number> {
  const { id } = await db
    .insertInto('series')
    .values({ sourceId, gearId: of.gearId, partId: of.partId ?? null, measure })
    .returning('id')
    .executeTakeFirstOrThrow()
  for (let from = TODAY - days; from < TODAY;) {
    const until = Math.min(TODAY, (Math.floor(from / 30) + 1) * 30)
    const times = Float64Array.from(
      { length: (until - from) * 24 },
      (_, hour) => from * DAY_MS + hour * 3_600_000,
    )
    const values = times.map((ms) => valueOf(TODAY - ms / DAY_MS))
    await sealPast(db, { sourceId, fromDay: from, days: until - from }, new Map([[id, { times, values }]]))
    from = until
  }
  return id
}

const link = (kind: 'stores-on' | 'hosts', fromGearId: number, toGearId: number) =>
  drawLink(db, { kind, fromGearId, toGearId }, 'asta')

const at: Record<string, number> = {}
/** What drives the thing that this series is of. */
async function drives(seriesId: number, amountId = seriesId) {
  const row = await findForecast(db, seriesId)
  expect(row, 'it is forecast').toBeDefined()
  return whatDrives(db, row!, { amountId, nowMs: NOW })
}

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  sourceId = await madeSource(db, 'made')
  const store = await gear('gannet-02', 'store')
  const used = (daysAgo: number): number => 6 * TIB - daysAgo * 20 * GIB
  at['usage'] = await series({ gearId: store }, 'system.filesystem.usage', used)
  at['store'] = await series(
    { gearId: store },
    'system.filesystem.utilization',
    (ago) => used(ago) / (8 * TIB),
  )
  await series({ gearId: store }, 'system.filesystem.limit', () => 8 * TIB)

  const quick = await gear('radar-02', 'machine', { processors: '8' })
  await series({ gearId: quick }, 'system.filesystem.usage', (ago) => TIB - ago * 12 * GIB)
  const parted = await gear('parted-01', 'machine', { processors: '4' })
  const gone = await part(parted, '/gone', 'filesystem', false)
  await series({ gearId: parted, partId: gone }, 'system.filesystem.usage', (ago) => TIB - ago * 100 * GIB)
  for (const name of ['/', '/srv'])
    await series(
      { gearId: parted, partId: await part(parted, name, 'filesystem') },
      'system.filesystem.usage',
      (ago) => TIB - ago * 1.5 * GIB,
    )
  const fresh = await gear('fresh-01', 'machine', { processors: 'many' })
  await series({ gearId: fresh }, 'system.filesystem.usage', () => 200 * GIB, 6)
  const elsewhere = await gear('elsewhere-01', 'machine')
  await series({ gearId: elsewhere }, 'system.filesystem.usage', (ago) => TIB - ago * 500 * GIB)
  for (const id of [quick, parted, fresh]) await link('stores-on', id, store)

  const host = await gear('petrel-07', 'server', { cluster: 'lee' })
  at['host'] = await series({ gearId: host }, 'system.cpu.utilization', () => 0.5)
  for (const id of [quick, parted, fresh]) {
    await link('hosts', host, id)
    await series({ gearId: id }, 'system.cpu.utilization', (ago) => 0.6 - ago * 0.004)
  }
  // A second host of its cluster, with a machine of its own, and a host of another.
  for (const [name, cluster, guest, grows] of [
    ['petrel-08', 'lee', 'tide-08', 3],
    ['petrel-11', 'luff', 'tide-11', 50],
  ] as const) {
    const other = await gear(name, 'server', { cluster })
    const machine = await gear(guest, 'machine')
    await link('hosts', other, machine)
    await series({ gearId: machine }, 'system.memory.usage', (ago) => 40 * GIB - (ago * grows * GIB) / 10)
  }
  await series({ gearId: quick }, 'system.memory.usage', (ago) => 40 * GIB - (ago * GIB) / 10)
  const lee = await gear('lee', 'cluster')
  const { sourceId: ours } = await ourSource(db, 'clusters', 60)
  await db.insertInto('sighting').values({ sourceId: ours, key: 'cluster lee', gearId: lee }).execute()
  at['cluster'] = await series({ gearId: lee }, 'system.memory.less_largest', (ago) => 0.8 - ago * 0.002)
  // A host stores on the store, too: it uses nothing of it itself.
  await link('stores-on', host, store)

  const array = await gear('skua-1', 'array')
  await link('stores-on', store, array)
  const drive = await part(array, 'd3', 'drive')
  at['drive'] = await series(
    { gearId: array, partId: drive },
    'hw.drive.life_left',
    (ago) => 0.4 + ago * 0.002,
  )
  await series({ gearId: quick }, 'system.disk.io.write', () => 1e6)
  await series({ gearId: parted }, 'system.disk.io.write', () => 3e6)
  await makeForecasts(db, { now: () => NOW, over: new AbortController().signal })
})
afterAll(() => drop())

test('of a datastore: who stores on it, by growth, and what none of them tells of', async () => {
  const told = (await drives(at['store']!, at['usage']))!
  expect(told.first.map(({ name, perDay }) => [name, Math.round((100 * perDay) / GIB) / 100])).toEqual([
    ['radar-02', 12],
    ['parted-01', 3],
    ['fresh-01', 0],
  ])
  expect(told.first.map(({ sinceMs }) => sinceMs)).toEqual([null, null, NOW - 6 * DAY_MS])
  expect(told.whole! / GIB).toBeCloseTo(20, 6)
  expect((told.whole! - told.perDay) / GIB).toBeCloseTo(5, 6)
  expect(told.sentence).toBe('radar-02 makes up 80 % of what is added.')
  expect(told.fromMs).toBe(NOW - 30 * DAY_MS)
})

test('of a host: processors that its machines keep busy; one that does not say how many it has is left out', async () => {
  const told = (await drives(at['host']!))!
  expect(told.first.map(({ name, perDay }) => [name, Number(perDay.toFixed(6))])).toEqual([
    ['radar-02', 0.032],
    ['parted-01', 0.016],
  ])
  expect(told.whole, 'the host is told in another unit').toBeNull()
  expect(told.notRead).toBe(1)
})

test('of a cluster: what the machines of all its hosts use, and of no other', async () => {
  const told = (await drives(at['cluster']!))!
  expect(told.by.words).toBe('memory they use')
  expect(told.first.map(({ name, perDay }) => [name, Number((perDay / GIB).toFixed(4))])).toEqual([
    ['tide-08', 0.3],
    ['radar-02', 0.1],
  ])
  expect(told.sentence).toBe('tide-08 makes up 75 % of what is added.')
})

test('of a drive of an array: who writes there, through the datastores', async () => {
  const told = (await drives(at['drive']!))!
  expect(told.first.map(({ name, perDay }) => [name, perDay])).toEqual([
    ['parted-01', 3e6],
    ['radar-02', 1e6],
  ])
  expect(told.sentence).toBe('parted-01 makes up 75 % of it all.')
})
