import { execFileSync, spawnSync } from 'node:child_process'
import { chmodSync, mkdirSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import pg from 'pg'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { connect, type Db, migrate, openPool } from '#db/platform'
import { readSpan } from '#db/readings'
import { insertSource, openKeyFile } from '#db/sources'
import { SEEDS } from '#protocols/seeds'
import { freePort, openCluster } from '../../bin/setup/postgres.mjs'
import { startCollector } from '../collector.ts'

// PostgreSQL's disk, a file system of its own in memory, is filled to the last byte while a sender pushes, and emptied
// again. Only root may mount one.

const disk = mkdtempSync(join(tmpdir(), 'rack-full-'))
const data = mkdtempSync(join(tmpdir(), 'rack-full-data-'))
const TOKEN = 'rr_of_the_one_sender_here'
const mayMount =
  process.getuid?.() === 0 &&
  spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=200m', 'tmpfs', disk]).status === 0
let cluster: Awaited<ReturnType<typeof openCluster>>
let letGo: () => void
let db: Db
let collector: Awaited<ReturnType<typeof startCollector>>
let port = 0

beforeAll(async () => {
  if (!mayMount) return
  chmodSync(disk, 0o755)
  const small = '-c shared_buffers=16MB -c max_wal_size=64MB -c min_wal_size=32MB'
  cluster = await openCluster({ folder: disk, port: await freePort(), extra: small })
  letGo = cluster.keep()
  db = connect(openPool(cluster.url))
  await migrate(db, SEEDS)
  mkdirSync(data, { recursive: true })
  openKeyFile(join(data, 'secret.key'))
  await insertSource(db, {
    name: 'the sender',
    protocol: 'otlp',
    address: 'pushes',
    settings: {},
    intervalSeconds: 5,
    credentialId: null,
    token: TOKEN,
  })
  port = await freePort()
  collector = await startCollector({
    databaseUrl: cluster.url,
    dataFolder: data,
    receiverPort: port,
    name: 'collector-1',
  })
}, 120_000)
afterAll(async () => {
  if (mayMount) {
    await collector.close()
    letGo()
    await db.destroy()
    cluster.kill()
    execFileSync('umount', ['-l', disk])
  }
  rmSync(disk, { recursive: true, force: true })
  rmSync(data, { recursive: true, force: true })
}, 60_000)

const body = (atMs: number, value: number): string =>
  JSON.stringify({
    resourceMetrics: [
      {
        resource: { attributes: [{ key: 'host.name', value: { stringValue: 'skerry-01' } }] },
        scopeMetrics: [
          {
            metrics: [
              {
                name: 'system.memory.utilization',
                gauge: { dataPoints: [{ timeUnixNano: `${BigInt(atMs) * 1_000_000n}`, asDouble: value }] },
              },
            ],
          },
        ],
      },
    ],
  })

/** What was acknowledged, by its instant. */
const acknowledged = new Map<number, number>()
let nextMs = Math.floor(Date.now() / 1000) * 1000 - 600_000

async function push(): Promise<number> {
  const [atMs, value] = [(nextMs += 1000), acknowledged.size / 1000]
  const reply = await fetch(`http://127.0.0.1:${port}/v1/metrics`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', authorization: `Bearer ${TOKEN}` },
    body: body(atMs, value),
    signal: AbortSignal.timeout(20_000),
  }).catch(() => null)
  if (reply?.status === 200) acknowledged.set(atMs, value)
  return reply?.status ?? 0
}

/** Leaves not a byte, neither by a file nor in the server's own. */
async function fill(): Promise<string> {
  const file = openSync(join(disk, 'filler'), 'w')
  const block = Buffer.alloc(64 * 1024)
  try {
    for (;;) writeSync(file, block)
  } catch {
    // That is what was wanted.
  }
  const client = new pg.Client({ connectionString: cluster.url })
  client.on('error', () => undefined)
  try {
    await client.connect()
    await client.query('create table if not exists ballast (line text)')
    for (;;)
      await client.query(
        'insert into ballast select repeat(md5(i::text), 20) from generate_series(1, 5000) i',
      )
  } catch (error) {
    return String(error)
  } finally {
    await client.end().catch(() => undefined)
  }
}

test.skipIf(!mayMount)(
  'a full disk of the database: what was acknowledged is there when there is room again, and it goes on by itself',
  { timeout: 240_000 },
  async () => {
    for (let count = 0; count < 20; count += 1) expect(await push()).toBe(200)
    expect(await fill()).toMatch(/No space left on device|terminat|ECONNRESET/i)
    const whileFull: number[] = []
    for (let count = 0; count < 40; count += 1) {
      whileFull.push(await push())
      await pause(250)
    }
    // It is kept on the other disk, or not acknowledged: never acknowledged and lost.
    expect(whileFull.filter((status) => status === 200).length).toBeGreaterThan(20)
    rmSync(join(disk, 'filler'))
    const until = Date.now() + 90_000
    let missing: number[]
    do {
      await pause(1000)
      missing = await lost().catch(() => [...acknowledged.keys()])
    } while (missing.length > 0 && Date.now() < until)
    expect(missing).toEqual([])
    expect(await push()).toBe(200)
  },
)

/** Instants that were acknowledged and are not stored, or with another value. */
async function lost(): Promise<number[]> {
  const series = await db
    .selectFrom('series')
    .select('id')
    .where('measure', '=', 'system.memory.utilization')
    .executeTakeFirstOrThrow()
  const { times, values } = await readSpan(db, series.id, nextMs - 3_600_000, nextMs + 1000)
  const stored = new Map([...times].map((atMs, index) => [atMs, values[index]]))
  return [...acknowledged].filter(([atMs, value]) => stored.get(atMs) !== value).map(([atMs]) => atMs)
}
