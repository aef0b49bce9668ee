import { randomBytes } from 'node:crypto'
import pg from 'pg'
import { afterAll, beforeAll, expect, inject, test, vi } from 'vitest'
import type { Db } from '#db/platform'
import { insertSource, recordFailure, recordHeard } from '#db/sources'
import { drawLink } from '#db/links'
import { listSurveys } from '#db/readings'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { DISK_RULE, judgeDisk } from '../jobs/diskAhead.ts'
import { Causes } from './causes.ts'
import { Silence } from './silence.ts'
import { Notifier } from '../notify/notifier.ts'
import { AlertWriter } from './alertWriter.ts'

let db: Db
let url: string
let drop: () => Promise<void>
const notifier = new Notifier(randomBytes(32))
beforeAll(async () => {
  ;({ db, url, drop } = await freshDatabaseWithJobs())
})
afterAll(() => drop())

const alertsOf = (sourceId: number) =>
  db
    .selectFrom('alert')
    .select(['title', 'reason', 'clearedAt', 'clearedReason'])
    .where('sourceId', '=', sourceId)
    .orderBy('id')
    .execute()

test('a source is silent after three intervals, with its last failure as the reason, until it is heard again', async () => {
  const sourceId = await insertSource(db, {
    name: 'petrel-05 controller',
    protocol: 'redfish',
    address: 'https://127.0.0.1',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
  const start = Date.now() + 1000
  const heard = (second: number) =>
    recordHeard(db, [{ sourceId, at: new Date(start + second * 1000), durationMs: 20 }])
  const silence = new Silence(db, new AlertWriter(db, notifier), start)
  await heard(0)
  await silence.look(start + 30_000)
  expect(await alertsOf(sourceId)).toEqual([])
  await recordFailure(db, sourceId, new Date(start + 30_000), {
    kind: 'connectionRefused',
    address: '127.0.0.1:443',
  })
  await silence.look(start + 31_000)
  await silence.look(start + 32_000)
  const [alert, ...others] = await alertsOf(sourceId)
  expect(others).toEqual([])
  expect(alert?.title).toMatch(/^petrel-05 controller has said nothing for 31.s$/)
  expect(alert?.reason).toContain('refused the connection')

  const later = new Silence(db, new AlertWriter(db, notifier), start + 100_000)
  await later.look(start + 100_500)
  expect(await alertsOf(sourceId), 'a collector that was away says nothing new').toHaveLength(1)
  await heard(110)
  await later.look(start + 111_000)
  expect((await alertsOf(sourceId))[0]?.clearedReason).toMatch(/^Heard again after/)
})

test('a database that was away makes nothing silent: what was heard meanwhile is on disk still', async () => {
  const sourceId = await insertSource(db, {
    name: 'petrel-06 controller',
    protocol: 'redfish',
    address: 'https://127.0.0.2',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
  const start = Date.now() + 1000
  const silence = new Silence(db, new AlertWriter(db, notifier), start)
  await recordHeard(db, [{ sourceId, at: new Date(start), durationMs: 20 }])
  await silence.look(start + 1000)
  const name = new URL(url).pathname.slice(1)
  const root = new pg.Client({ connectionString: inject('databaseUrl') })
  await root.connect()
  await root.query(`alter database ${name} allow_connections false`)
  await root.query(`select pg_terminate_backend(pid) from pg_stat_activity where datname = '${name}'`)
  await expect(silence.look(start + 20_000)).rejects.toThrow()
  await root.query(`alter database ${name} allow_connections true`)
  await root.end()
  // A connection that was idle may be handed out before its end was read: then it is looked again, as every second.
  await vi.waitFor(() => silence.look(start + 60_000), { timeout: 10_000 })
  expect(await alertsOf(sourceId)).toEqual([])
  await silence.look(start + 91_000)
  expect(await alertsOf(sourceId)).toHaveLength(1)
})

test('two silent sources of one host with machines are one alert: a warning while something hears of it, then critical', async () => {
  const gearOf = async (name: string, kind: 'server' | 'machine') =>
    (
      await db
        .insertInto('gear')
        .values({ name, kind, facts: '{}', rackId: null, unit: null, heightUnits: null })
        .returning('id')
        .executeTakeFirstOrThrow()
    ).id
  const [host, machine] = [await gearOf('petrel-09', 'server'), await gearOf('tide-09', 'machine')]
  await drawLink(db, { kind: 'hosts', fromGearId: host, toGearId: machine }, 'a test')
  const start = Date.now() - 120_000
  const source = async (name: string, tellsOf: readonly number[]) => {
    const id = await insertSource(db, {
      name,
      protocol: 'redfish',
      address: `https://127.0.1.${tellsOf.length}`,
      settings: {},
      intervalSeconds: 10,
      credentialId: null,
      token: null,
    })
    for (const gearId of tellsOf)
      await db
        .insertInto('sighting')
        .values({ sourceId: id, gearId, key: String(gearId) })
        .execute()
    await recordHeard(db, [{ sourceId: id, at: new Date(start), durationMs: 5 }])
    return id
  }
  const controller = await source('petrel-09 controller', [host])
  const hypervisor = await source('petrel-09 hypervisor', [host, machine])
  const silence = new Silence(db, new AlertWriter(db, notifier), start - 60_000)
  const causes = new Causes(db, notifier)
  await recordHeard(db, [{ sourceId: hypervisor, at: new Date(start + 20_000), durationMs: 5 }])
  await silence.look(start + 31_000)
  await causes.look(start + 31_000)
  const severities = () =>
    db
      .selectFrom('alert')
      .select(['sourceId', 'severity', 'causeId', 'reason'])
      .where('sourceId', 'in', [controller, hypervisor])
      .orderBy('id')
      .execute()
  expect(await severities()).toMatchObject([{ sourceId: controller, severity: 'warning', causeId: null }])
  await silence.look(start + 51_000)
  await causes.look(start + 51_000)
  const [first, second] = await severities()
  expect(first).toMatchObject({ severity: 'critical', causeId: null })
  expect(first?.reason).toContain('Nothing else tells of petrel-09, and 1 machine runs on it.')
  expect(second).toMatchObject({ severity: 'critical' })
  expect(second?.causeId).not.toBeNull()
})

test('a source that was heard before the clock was set back an hour is silent in time, and not for the hour', async () => {
  const sourceId = await insertSource(db, {
    name: 'petrel-08 controller',
    protocol: 'redfish',
    address: 'https://127.0.0.3',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
  const start = Date.now()
  await recordHeard(db, [{ sourceId, at: new Date(start + 3_600_000), durationMs: 20 }])
  const silence = new Silence(db, new AlertWriter(db, notifier), start - 60_000)
  silence.clockSet(start)
  await silence.look(start + 29_000)
  expect(await alertsOf(sourceId)).toEqual([])
  await silence.look(start + 31_000)
  expect((await alertsOf(sourceId))[0]?.title).toBe('petrel-08 controller has said nothing for 31\u00a0s')
})

test('of several times that a source was heard the newest stands, and its failure is wiped', async () => {
  const row = await db.selectFrom('source').selectAll().orderBy('id').executeTakeFirstOrThrow()
  const at = (second: number) => new Date(row.lastHeardAt!.getTime() + second * 1000)
  const both = [5, 3].map((second) => ({ sourceId: row.id, at: at(second), durationMs: second }))
  await recordHeard(db, both)
  await recordHeard(db, [{ sourceId: row.id, at: at(1), durationMs: 1, isLate: true }])
  const now = await db.selectFrom('source').selectAll().orderBy('id').executeTakeFirstOrThrow()
  expect([now.lastHeardAt, now.lastDurationMs, now.failure, now.failures]).toEqual([at(5), 5, null, 0])
  // Heard just now, at an earlier time: the clock was set back.
  await recordHeard(db, [{ sourceId: row.id, at: at(-3600), durationMs: 2 }])
  const back = await db.selectFrom('source').selectAll().where('id', '=', row.id).executeTakeFirstOrThrow()
  expect([back.lastHeardAt, back.lastDurationMs]).toEqual([at(-3600), 2])
})

test('a disk that fills is announced, gets worse, and is well again', async () => {
  const today = Math.floor(Date.now() / 86_400_000)
  const survey = (day: number, databaseBytes: number, freeBytes: number) =>
    db
      .insertInto('spaceSurvey')
      .values({ day, databaseBytes: String(databaseBytes), freeBytes: String(freeBytes) })
      .execute()
  const alerts = () =>
    db
      .selectFrom('alert')
      .select(['severity', 'title', 'clearedAt'])
      .where('ruleKey', '=', DISK_RULE)
      .orderBy('id')
      .execute()
  for (const [index, free] of [2000, 1900, 1800, 1700].entries())
    await survey(today - 6 + index, 1000 + index * 100, free)
  await judgeDisk(db, new AlertWriter(db, notifier), Date.now())
  expect(await alerts()).toMatchObject([
    { severity: 'warning', title: 'The disk under the store is full in about 17 days' },
  ])
  await survey(today - 2, 1400, 300)
  await judgeDisk(db, new AlertWriter(db, notifier), Date.now())
  await judgeDisk(db, new AlertWriter(db, notifier), Date.now())
  expect(await alerts()).toMatchObject([{ severity: 'critical', clearedAt: null }])
  await survey(today - 1, 1500, 90_000_000)
  await judgeDisk(db, new AlertWriter(db, notifier), Date.now())
  expect((await alerts())[0]?.clearedAt).not.toBeNull()
  expect(await listSurveys(db, today - 2)).toHaveLength(2)
})
