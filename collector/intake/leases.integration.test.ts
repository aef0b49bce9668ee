import { type ChildProcess, spawn } from 'node:child_process'
import { createServer, type Server } from 'node:https'
import { chmodSync, mkdtempSync, openSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { sql } from 'kysely'
import { connect, type Db, openPool, migrate } from '#db/platform'
import {
  firstCollector,
  giveUpLeases,
  keepLeases,
  openKeyFile,
  insertCredential,
  insertSource,
} from '#db/sources'
import { newAuthority, newServerCertificate } from '#standins/redfish/authority'
import { freePort, freePorts, openCluster } from '../../bin/setup/postgres.mjs'
import { SEEDS } from '#protocols/seeds'

const SOURCES = 24
const INTERVAL_S = 5
const LEASE_MS = 6000
const folder = mkdtempSync(join(tmpdir(), 'rack-leases-'))
let cluster: Awaited<ReturnType<typeof openCluster>>
let db: Db
let service: Server
let env: NodeJS.ProcessEnv
const collectors = new Map<string, ChildProcess>()

/** When each source was asked, from the first question with its credential to the last answer of that reading. */
const asked = new Map<string, { beganMs: number; endedMs: number }[]>()

/** A service of one small system that takes its time, and notes who asks. */
function answer(url: string, user: string): unknown {
  const readings = asked.get(user) ?? []
  if (url === '/redfish/v1/Systems') {
    asked.set(user, [...readings, { beganMs: Date.now(), endedMs: Date.now() }])
    return { Members: [{ '@odata.id': '/redfish/v1/Systems/1' }] }
  }
  // What was under way when the list was emptied belongs to nothing that is counted.
  const last = readings.at(-1)
  if (last !== undefined) last.endedMs = Date.now()
  return { '@odata.id': url, Id: '1', Name: user, SerialNumber: `SN-${user}`, PowerState: 'On' }
}

const userOf = (authorization = ''): string =>
  Buffer.from(authorization.replace('Basic ', ''), 'base64').toString().split(':')[0]!

/** @returns asks for how long, at most, this machine let nothing of this process run since; ms */
function stalls(): () => number {
  const everyMs = 100
  let [last, most] = [performance.now(), 0]
  const timer = setInterval(() => {
    const now = performance.now()
    most = Math.max(most, now - last - everyMs)
    last = now
  }, everyMs)
  return () => {
    clearInterval(timer)
    return most
  }
}

async function startCollector(name: string): Promise<void> {
  const log = openSync(join(folder, `${name}.log`), 'a')
  const child = spawn(process.execPath, ['programs/collector.mjs'], {
    env: { ...env, RACK_COLLECTOR: name, RACK_RECEIVER_PORT: String(await freePort()) },
    stdio: ['ignore', log, log],
  })
  collectors.set(name, child)
}

beforeAll(async () => {
  chmodSync(folder, 0o755)
  cluster = await openCluster({ folder, port: await freePort(), extra: '-c fsync=off' })
  db = connect(openPool(cluster.url))
  await migrate(db, SEEDS)
  const authority = await newAuthority('authority of leases', Date.now())
  const pair = await newServerCertificate(authority, 'leases', Date.now())
  const port = (await freePorts(1)) as number
  service = createServer({ cert: pair.certificatePem, key: pair.keyPem }, (request, response) => {
    const body =
      request.url === '/redfish/v1/'
        ? { Systems: { '@odata.id': '/redfish/v1/Systems' } }
        : answer(request.url ?? '', userOf(request.headers.authorization))
    setTimeout(() => {
      response.writeHead(200, { 'content-type': 'application/json' })
      response.end(JSON.stringify(body))
    }, 100)
  })
  await new Promise<void>((resolve) => service.listen(port, '127.0.0.1', resolve))
  const key = openKeyFile(join(folder, 'secret.key'))
  env = { ...process.env, RACK_DATABASE_URL: cluster.url, RACK_DATA: folder }
  for (let index = 0; index < SOURCES; index += 1) {
    const name = `source-${index}`
    const secret = { username: name, password: 'x' }
    await insertSource(db, {
      name,
      protocol: 'redfish',
      address: `https://127.0.0.1:${port}`,
      settings: { authorityPem: authority.certificatePem },
      intervalSeconds: INTERVAL_S,
      credentialId: await insertCredential(db, key, { name, kind: 'basic', secret, hosts: ['127.0.0.0/8'] }),
      token: null,
    })
  }
})
afterAll(async () => {
  for (const child of collectors.values()) child.kill('SIGKILL')
  service.close()
  service.closeAllConnections()
  await db.destroy()
  cluster.kill()
  rmSync(folder, { recursive: true, force: true })
})

const holders = async (): Promise<Record<string, number>> => {
  const rows = await db
    .selectFrom('source')
    .select((eb) => ['leaseHolder', eb.fn.countAll<string>().as('count')])
    .groupBy('leaseHolder')
    .execute()
  return Object.fromEntries(rows.map((row) => [row.leaseHolder ?? 'nobody', Number(row.count)]))
}

const heldBy = async (holder: string): Promise<Set<string>> => {
  const rows = await db.selectFrom('source').select('name').where('leaseHolder', '=', holder).execute()
  return new Set(rows.map(({ name }) => name))
}

describe('leases', () => {
  test('are shared evenly, given away to who comes later, and freed at once by who leaves', async () => {
    expect(await keepLeases(db, 'a', LEASE_MS)).toHaveLength(SOURCES)
    expect(await keepLeases(db, 'b', LEASE_MS)).toHaveLength(0)
    expect(await keepLeases(db, 'a', LEASE_MS)).toHaveLength(SOURCES / 2)
    expect(await keepLeases(db, 'b', LEASE_MS)).toHaveLength(SOURCES / 2)
    await giveUpLeases(db, 'a')
    expect(await keepLeases(db, 'b', LEASE_MS)).toHaveLength(SOURCES)
    await giveUpLeases(db, 'b')
  })
  test('of one that says nothing any more are taken over only when they have run out', async () => {
    expect(await keepLeases(db, 'a', 300)).toHaveLength(SOURCES)
    await pause(400)
    // The server has just come up in this test: it waits for who held leases before.
    await pause(5000)
    expect(await keepLeases(db, 'b', 300)).toHaveLength(SOURCES)
    await giveUpLeases(db, 'b')
    await db.deleteFrom('collector').execute()
  })
  test('of one that died before the clock was set back do not hold until it is that late again', async () => {
    expect(await keepLeases(db, 'a', LEASE_MS)).toHaveLength(SOURCES)
    await sql`update collector set seen_at = now() + interval '1 hour'`.execute(db)
    await sql`update source set lease_until = now() + interval '1 hour' where lease_holder = 'a'`.execute(db)
    expect(await keepLeases(db, 'b', LEASE_MS)).toHaveLength(SOURCES)
    expect(await firstCollector(db, LEASE_MS)).toBe('b')
    await giveUpLeases(db, 'b')
    await db.deleteFrom('collector').execute()
  })
  test('never belong to two, however many ask at the same moment', async () => {
    const names = ['a', 'b', 'c', 'd', 'e']
    for (let round = 0; round < 5; round += 1) {
      const held = await Promise.all(names.map((name) => keepLeases(db, name, LEASE_MS)))
      expect(new Set(Object.keys(await holders())).size).toBeGreaterThan(0)
      const last = await Promise.all(names.map((name) => keepLeases(db, name, LEASE_MS)))
      expect(last.flat().length).toBe(new Set(last.flat()).size)
      expect(held.flat().length).toBeGreaterThanOrEqual(SOURCES)
    }
    expect(Object.values(await holders()).every((count) => count <= Math.ceil(SOURCES / 5))).toBe(true)
    for (const name of names) await giveUpLeases(db, name)
  })
})

test(
  'one of three collectors is killed: its sources are asked again within two intervals, none twice at once',
  { timeout: 300_000 },
  async () => {
    for (const name of ['collector-1', 'collector-2', 'collector-3']) await startCollector(name)
    // Three processes come up beside each other, and shares are evened out one renewal after the other.
    await expect
      .poll(holders, { timeout: 120_000, interval: 500 })
      .toEqual({ 'collector-1': 8, 'collector-2': 8, 'collector-3': 8 })
    await pause(2 * INTERVAL_S * 1000)
    asked.clear()
    const beganMs = Date.now()
    const stalled = stalls()
    await pause(INTERVAL_S * 1000)
    const ofKilled = await heldBy('collector-2')
    collectors.get('collector-2')!.kill('SIGKILL')
    await pause(4 * INTERVAL_S * 1000)
    const endMs = Date.now()
    const stalledMs = stalled()
    await expect.poll(holders, { timeout: 30_000 }).toEqual({ 'collector-1': 12, 'collector-3': 12 })

    const failures = await db
      .selectFrom('source')
      .select('failure')
      .where('failure', 'is not', null)
      .execute()
    expect(failures).toEqual([])
    const longestMs = { moved: 0, stayed: 0 }
    let together = 0
    let readings = 0
    for (let index = 0; index < SOURCES; index += 1) {
      const name = `source-${index}`
      const own = asked.get(name) ?? []
      const of = ofKilled.has(name) ? 'moved' : 'stayed'
      readings += own.length
      const instants = [beganMs, ...own.map((reading) => reading.beganMs), endMs]
      instants.slice(1).forEach((at, step) => (longestMs[of] = Math.max(longestMs[of], at - instants[step]!)))
      own.slice(1).forEach((reading, step) => {
        if (reading.beganMs < own[step]!.endedMs) together += 1
      })
    }
    console.log(
      `${SOURCES} sources each ${INTERVAL_S} s, one of three collectors killed: ${readings} readings, the longest gap ${(longestMs.moved / 1000).toFixed(1)} s (asked: at most ${2 * INTERVAL_S} s and a moment; of those that nobody took over ${(longestMs.stayed / 1000).toFixed(1)} s), ${together} read twice at once`,
    )
    expect(together).toBe(0)
    // By how much a busy machine is late is read off the sources that stayed where they were.
    const lateMs = longestMs.stayed - INTERVAL_S * 1000
    expect(longestMs.moved).toBeLessThanOrEqual(2 * INTERVAL_S * 1000 + 1000 + lateMs)
    expect(longestMs.stayed).toBeLessThanOrEqual(2 * INTERVAL_S * 1000 + 1000 + stalledMs)
    const { rows } = await db
      .selectFrom('hot')
      .select((eb) => ['sourceId', 'ts', eb.fn.countAll<string>().as('count')])
      .groupBy(['sourceId', 'ts'])
      .execute()
      .then((all) => ({ rows: all.filter((row) => Number(row.count) > 1) }))
    expect(rows).toEqual([])
  },
)
