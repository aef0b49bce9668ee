import { execFileSync } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { createServer, type Server } from 'node:http'
import { tmpdir } from 'node:os'
import { sql } from 'kysely'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Db } from '#db/platform'
import { seal } from '#db/sources'
import { tellByMail } from '#db/testing/callouts'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { hearBeat, insertHeartbeat, listHeartbeats, missedBeats } from '#db/callouts'
import { freePort } from '../../bin/setup/postgres.mjs'
import type { Taken } from '../intake/delivery.ts'
import { OwnHealth } from './ownHealth.ts'

const key = randomBytes(32)
const WHO = 'a test'
let db: Db
let drop: () => Promise<void>
let own: OwnHealth
let taken: Taken[] = []
const beats: { readonly authorization: string | undefined; readonly body: string }[] = []
let other: Server
let port = 0

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  port = await freePort()
  other = createServer((request, response) => {
    let body = ''
    request.on('data', (chunk: Buffer) => (body += chunk.toString()))
    request.on('end', () => {
      beats.push({ authorization: request.headers.authorization, body })
      response.writeHead(200).end('heard')
    })
  })
  await new Promise<void>((resolve) => other.listen(port, '127.0.0.1', resolve))
  await db
    .insertInto('collector')
    .values({ name: 'collector-1', seenAt: new Date() } as never)
    .execute()
  await db
    .insertInto('collector')
    .values({ name: 'collector-2', seenAt: new Date(Date.now() - 60_000) } as never)
    .execute()
  own = new OwnHealth(db, key, {
    collector: 'collector-1',
    dataFolder: tmpdir(),
    sources: () => 7,
    spoolBytes: () => 1234,
    isFirst: () => Promise.resolve(true),
    take: (each) => {
      taken.push(each)
      return Promise.resolve()
    },
  })
})
afterAll(async () => {
  other.close()
  await drop()
})

const reading = (part: string, measure: string): number | null | undefined =>
  taken.at(-1)?.findings.readings.find((each) => each.part === part && each.measure === measure)?.value

test('without a call-out there is nobody to tell, and no self-monitoring', async () => {
  await own.look(Date.now())
  expect(taken).toEqual([])
})

test('collectors, the database, channels and heartbeats are parts with readings', async () => {
  const { channelId, callOutId } = await tellByMail(db, { port: 25 })
  await insertHeartbeat(
    db,
    { direction: 'in', name: 'far', token: 'a-token-of-its-own', intervalSeconds: 10 },
    WHO,
  )
  await db
    .insertInto('message')
    .values({
      id: '00000000-0000-4000-8000-000000000001',
      alertId: null,
      callOutId,
      channelId,
      recipients: [],
      team: 'night team',
      subject: 's',
      body: 'b',
      attempts: 3,
      dueAt: new Date(Date.now() - 300_000),
      target: null,
      facts: null,
    })
    .execute()
  for (let ms = 1; ms <= 100; ms += 1) own.judged(ms)
  taken = []
  await own.look(Date.now() + 60_000)
  expect(taken).toHaveLength(1)
  expect(taken[0]!.findings.gear[0]).toMatchObject({ kind: 'selfMonitoring', name: 'Restless Rack' })
  expect(reading('collector collector-1', 'watch.collector')).toBe(1)
  expect(reading('collector collector-1', 'watch.sources')).toBe(7)
  expect(reading('collector collector-1', 'watch.delay'), '99 of 100 take no longer').toBe(100)
  expect(reading('collector collector-1', 'watch.spool')).toBe(1234)
  expect(reading('collector collector-2', 'watch.collector'), 'not heard for a minute').toBe(0)
  expect(reading('database Database', 'watch.answer')).toBeGreaterThan(0)
  // As coreutils count it.
  const [size, free] = execFileSync('df', ['-B1', '--output=size,avail', tmpdir()], { encoding: 'utf8' })
    .split('\n')[1]!
    .trim()
    .split(/\s+/)
    .map(Number)
  expect(reading('database Database', 'watch.disk.limit')).toBe(size)
  expect(Math.abs(reading('database Database', 'watch.disk.usage')! - (size! - free!)) / size!).toBeLessThan(
    0.02,
  )
  expect(reading('database Database', 'watch.disk')).toBeCloseTo(1 - free! / size!, 1)
  expect(reading(`channel ${channelId}`, 'watch.stuck')).toBeGreaterThan(350)
  expect(reading(`channel ${channelId}`, 'watch.messages')).toBe(1)
  const [beat] = await listHeartbeats(db)
  expect(reading(`heartbeat ${beat!.id}`, 'watch.heartbeat')).toBeGreaterThanOrEqual(4)
  const { sourceId } = taken[0]!
  await own.look(Date.now())
  expect(taken.at(-1)?.sourceId, 'it is one source').toBe(sourceId)
})

test('a heartbeat that is heard is not missed, and a wrong token is nobody’s', async () => {
  expect(await hearBeat(db, 'another token')).toBe(false)
  expect(await hearBeat(db, 'a-token-of-its-own')).toBe(true)
  const [beat] = await listHeartbeats(db)
  expect(missedBeats(beat!, Date.now())).toBe(0)
  expect(missedBeats(beat!, Date.now() + 45_000)).toBe(3)
})

test('heartbeats go out at their interval with their token, and what comes back is kept', async () => {
  const url = `http://127.0.0.1:${port}/heartbeat`
  await insertHeartbeat(
    db,
    {
      direction: 'out',
      name: 'near',
      url,
      sealedSecret: seal(key, { password: 'out-token' }),
      intervalSeconds: 30,
    },
    WHO,
  )
  await insertHeartbeat(
    db,
    { direction: 'out', name: 'gone', url: 'http://127.0.0.1:9/', sealedSecret: null, intervalSeconds: 30 },
    WHO,
  )
  const nowMs = Date.now()
  await own.beat(nowMs)
  await own.beat(nowMs + 10_000)
  expect(beats).toEqual([
    { authorization: 'Bearer out-token', body: expect.stringContaining('"from":"New site"') as string },
  ])
  const found = (await listHeartbeats(db)).filter(({ direction }) => direction === 'out')
  expect(found.map(({ name, answer }) => [name, answer])).toEqual([
    ['near', '200 heard'],
    ['gone', expect.stringMatching(/cannot be reached/) as string],
  ])
  await own.beat(nowMs + 30_000)
  expect(beats).toHaveLength(2)
})

test('messages that are due and that nobody tries are said, and no heartbeat goes out meanwhile', async () => {
  const look = async (): Promise<number | null | undefined> => {
    await own.look(Date.now())
    return reading('messages Messages', 'watch.untried')
  }
  // The one from before was tried; none is in the queue.
  expect(await look()).toBe(0)
  await sql`update message set tried_at = now() - interval '10 minutes'`.execute(db)
  await sql`select graphile_worker.add_job('notify', '{"id":"x"}', run_at := now() - interval '150 seconds')`.execute(
    db,
  )
  expect(await look()).toBeGreaterThanOrEqual(150)
  beats.length = 0
  await own.beat(Date.now() + 120_000)
  expect(beats).toEqual([])
  // Another one was tried a moment ago: it waits for its turn.
  await sql`update message set tried_at = now() - interval '5 seconds'`.execute(db)
  expect(await look()).toBeLessThan(60)
  await own.beat(Date.now() + 180_000)
  expect(beats.length).toBeGreaterThan(0)
  // A job that waits for its next try is not due.
  await sql`update message set tried_at = now() - interval '10 minutes'`.execute(db)
  await sql`select graphile_worker.reschedule_jobs(array(select id from graphile_worker.jobs), run_at := now() + interval '1 minute')`.execute(
    db,
  )
  expect(await look()).toBe(0)
})
