import { sql } from 'kysely'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { MeasureKey, PartKind } from '#core/catalogue'
import { DAY_MS, HOUR_MS } from '#core/forecast'
import { listDrives, writeRatings } from '#db/disks'
import { countDue, findForecast, insertOrder, listForecasts, writeLeadTime, writeMark } from '#db/forecast'
import type { Db } from '#db/platform'
import { sealPast } from '#db/readings'
import { freshDatabase } from '#db/testing/database'
import { madeSource } from '#db/testing/series'
import { makeForecasts, measurePaces } from './forecasting.ts'

const NOW = Date.UTC(2026, 10, 27)
const TODAY = NOW / DAY_MS
const TIB = 1024 ** 4
let db: Db
let drop: () => Promise<void>
let sourceId: number
const ids: Record<string, number> = {}

const over = new AbortController().signal
const pass = (nowMs = NOW) => makeForecasts(db, { now: () => nowMs, over })

async function newPart(name: string, kind: PartKind, measures: readonly MeasureKey[]): Promise<void> {
  const gear = await db
    .insertInto('gear')
    .values({ name, kind: 'server', facts: '{}', rackId: null, unit: null, heightUnits: null })
    .returning('id')
    .executeTakeFirstOrThrow()
  const part = await db
    .insertInto('part')
    .values({ gearId: gear.id, key: name, kind, name: `${name} part`, facts: '{}' })
    .returning('id')
    .executeTakeFirstOrThrow()
  for (const measure of measures) {
    const row = await db
      .insertInto('series')
      .values({ sourceId, gearId: gear.id, partId: part.id, measure })
      .returning('id')
      .executeTakeFirstOrThrow()
    ids[`${name} ${measure}`] = row.id
  }
}

/** Some days of a course by the hour, sealed as the past is. */
async function layDown(key: string, days: number, valueAt: (day: number) => number): Promise<void> {
  for (let from = TODAY - days; from < TODAY;) {
    const until = Math.min(TODAY, (Math.floor(from / 30) + 1) * 30)
    const times = Array.from({ length: (until - from) * 24 }, (_, hour) => from * DAY_MS + hour * HOUR_MS)
    const values = times.map((at) => valueAt((at - NOW) / DAY_MS))
    await sealPast(
      db,
      { sourceId, fromDay: from, days: until - from },
      new Map([[ids[key]!, { times: Float64Array.from(times), values: Float64Array.from(values) }]]),
    )
    from = until
  }
}

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  sourceId = await madeSource(db, 'made')
  await newPart('store', 'filesystem', [
    'system.filesystem.utilization',
    'system.filesystem.usage',
    'system.filesystem.limit',
  ])
  await newPart('drive', 'drive', ['hw.drive.life_left'])
  await newPart('young', 'drive', ['hw.drive.life_left', 'hw.temperature'])
  // 8 of 10 TiB today, and 20 GiB a day: full after 102 days, and critical after 87.
  const used = (day: number): number => 8 * TIB + day * 20 * 1024 ** 3
  await layDown('store system.filesystem.usage', 120, used)
  await layDown('store system.filesystem.limit', 120, () => 10 * TIB)
  await layDown('store system.filesystem.utilization', 120, (day) => used(day) / (10 * TIB))
  await layDown('drive hw.drive.life_left', 200, (day) => Math.ceil(30 - 0.1 * day) / 100)
  await layDown('young hw.drive.life_left', 4, () => 0.9)
}, 60_000)
afterAll(() => drop())

test('what is finite is forecast, in bytes where they are known; what is not, is not', async () => {
  expect(await pass()).toMatchObject({ made: 3, things: 3 })
  const store = (await findForecast(db, ids['store system.filesystem.utilization']!))!
  expect(store).toMatchObject({ verdict: 'crosses', topic: 'Space', part: 'store part', order: null })
  const days = (store.runOutMs! - NOW) / DAY_MS
  // The shipped rule is in force: critical at 97 % of 10 TiB, which are reached 1.7 TiB from now.
  expect(store.body.line.words).toMatch(/^critical 97\.0.%$/)
  expect(store.body.others.map(({ line }) => line.words)).toContain('full')
  expect(days).toBeGreaterThan(84)
  expect(days).toBeLessThan(91)
  expect(store.orderByMs).toBe(store.runOutMs! - 14 * DAY_MS)
  expect(store.body.sentence).toMatch(/^Grows 20\.\d.GiB a day since/)
  expect(store.body.proofs.length, 'it says how right it has been').toBeGreaterThan(1)
  const drive = (await findForecast(db, ids['drive hw.drive.life_left']!))!
  // 30 % left and a tenth of one a day; critical at 5.
  expect((drive.runOutMs! - NOW) / DAY_MS).toBeGreaterThan(225)
  expect((drive.runOutMs! - NOW) / DAY_MS).toBeLessThan(270)
  expect((await findForecast(db, ids['young hw.drive.life_left']!))!).toMatchObject({
    verdict: 'too-little',
    runOutMs: null,
  })
  const listed = await listForecasts(db, ['crosses'])
  expect(
    listed.map(({ gear }) => gear),
    'what must be ordered first is first',
  ).toEqual(['store', 'drive'])
})

test('what is as it was is not made again; what somebody has said of it is', async () => {
  expect(await pass(NOW + HOUR_MS)).toMatchObject({ made: 0 })
  const seriesId = ids['store system.filesystem.utilization']!
  await writeMark(db, { seriesId, atMs: NOW - 30 * DAY_MS, as: 'one-off' }, 'Asta')
  await writeMark(db, { seriesId, atMs: NOW - 30 * DAY_MS, as: 'growth' }, 'Bo')
  expect(await pass(NOW + HOUR_MS)).toMatchObject({ made: 1 })
  await writeMark(db, { seriesId, atMs: NOW - 30 * DAY_MS, as: 'one-off' }, 'Bo')
  expect(await pass(NOW + HOUR_MS), 'who thinks better of it is heard').toMatchObject({ made: 1 })
  expect(await pass(NOW + 22 * HOUR_MS), 'after a day all is').toMatchObject({ made: 3 })
})

test('an order that is noted stands beside its thing until it should have come', async () => {
  const seriesId = ids['drive hw.drive.life_left']!
  const soon = new Date(NOW + 400 * DAY_MS)
  expect(await countDue(db, soon)).toBe(2)
  const later = new Date(Date.now() + 30 * DAY_MS).toISOString().slice(0, 10)
  await insertOrder(db, { seriesId, words: 'two drives', expectedOn: later }, 'Asta')
  expect((await findForecast(db, seriesId))!.order).toMatchObject({
    words: 'two drives',
    expectedOn: later,
    by: 'Asta',
  })
  expect(await countDue(db, soon), 'what is ordered is not counted').toBe(1)
  await db.updateTable('forecastOrder').set({ expectedOn: '2020-01-01' }).execute()
  expect((await findForecast(db, seriesId))!.order).toBeNull()
})

test('what is gone is forecast no more', async () => {
  await db.deleteFrom('series').where('id', '=', ids['young hw.drive.life_left']!).execute()
  await pass(NOW + HOUR_MS)
  expect(await findForecast(db, ids['young hw.drive.life_left']!)).toBeUndefined()
})

test('a lead time that somebody enters moves the day by which to order', async () => {
  const seriesId = ids['store system.filesystem.utilization']!
  await writeLeadTime(db, { topic: 'Space', tag: null, gearId: null, days: 30 }, 'Asta')
  await writeLeadTime(db, { topic: 'Wear', tag: 'elsewhere', gearId: null, days: 90 }, 'Asta')
  expect(await pass(NOW + HOUR_MS), 'of nothing else').toMatchObject({ made: 1 })
  const { runOutMs, orderByMs, body } = (await findForecast(db, seriesId))!
  expect(body.leadDays).toBe(30)
  expect(orderByMs).toBe(runOutMs! - 30 * DAY_MS)
})

test('a drive without a word for its life is worn out by what is written, once its rating is known', async () => {
  await newPart('sata', 'drive', ['hw.drive.written'])
  // A thousand terabytes so far and two more a day: 2,000 are reached after 500 days.
  await layDown('sata hw.drive.written', 120, (day) => 1e15 + day * 2e12)
  expect(await pass(NOW + HOUR_MS), 'bytes alone run towards nothing').toMatchObject({ made: 0 })
  await db
    .updateTable('part')
    .set({ facts: JSON.stringify({ model: 'S1', serial: 'A' }) })
    .where('key', '=', 'sata')
    .execute()
  await writeRatings(db, [{ model: 'S1', ratedBytes: 2e15, origin: 'data sheet' }], 'Asta')
  expect(await pass(NOW + HOUR_MS)).toMatchObject({ made: 1 })
  const { verdict, runOutMs, body } = (await findForecast(db, ids['sata hw.drive.written']!))!
  expect([verdict, body.kind, body.line.words]).toEqual(['crosses', 'written', 'worn out'])
  expect((runOutMs! - NOW) / DAY_MS).toBeGreaterThan(490)
  expect((runOutMs! - NOW) / DAY_MS).toBeLessThan(510)
  expect(await measurePaces(db, { now: () => NOW, over })).toEqual({ drives: 1 })
  const [drive] = (await listDrives(db)).filter(({ name }) => name === 'sata part')
  expect(drive!.writtenDaily! / 2e12).toBeCloseTo(1, 1)
})

test('a drive that came into a bay begins its history there', async () => {
  const old = await db
    .selectFrom('driveService')
    .select('id')
    .where('serial', '=', 'A')
    .executeTakeFirstOrThrow()
  await sql`update part set facts = facts || '{"serial": "B"}' where key = 'sata'`.execute(db)
  const since = new Date(NOW - 3 * DAY_MS)
  const longAgo = new Date(NOW - 300 * DAY_MS)
  await sql`update drive_service set since = ${longAgo}, until = ${since} where id = ${old.id}`.execute(db)
  await sql`update drive_service set since = ${since} where serial = 'B'`.execute(db)
  // Made anew the next day; three days of its own are too few.
  await pass(NOW + 22 * HOUR_MS)
  expect((await findForecast(db, ids['sata hw.drive.written']!))!.verdict).toBe('too-little')
})
