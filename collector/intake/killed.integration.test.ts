import { type ChildProcess, spawn, spawnSync } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { connect, type Db, openPool, migrate } from '#db/platform'
import { aggregate, layoutFor, readSpans } from '#db/readings'
import { newSeries } from '#db/testing/series'
import { freePort, openCluster } from '../../bin/setup/postgres.mjs'
import { DAY, FIRST_DAY, madeInstant, madeValue, SLOTS } from '../testing/madeReadings.ts'
import { SEEDS } from '#protocols/seeds'
import { sized } from '../../core/testing/size.ts'

// kill -9 of the writer, of PostgreSQL and of the sealing job, each at six random moments under load, twenty at full
// size (fsync on).
// This shows what survives a killed process; it says nothing of a power cut.

const TIMES = sized(6, 20)
const folder = mkdtempSync(join(tmpdir(), 'rack-killed-'))
const journal = join(folder, 'journal')
let cluster: Awaited<ReturnType<typeof openCluster>>
let db: Db
const sources: { sourceId: number; layout: { id: number; seriesIds: number[] } }[] = []

beforeAll(async () => {
  chmodSync(folder, 0o755)
  cluster = await openCluster({ folder, port: await freePort() })
  db = connect(openPool(cluster.url))
  await migrate(db, SEEDS)
  for (let count = 0; count < 3; count += 1) {
    const { sourceId, seriesIds } = await newSeries(db, SLOTS)
    sources.push({ sourceId, layout: { id: await layoutFor(db, sourceId, seriesIds), seriesIds } })
  }
})
afterAll(async () => {
  await db.destroy()
  cluster.kill()
  rmSync(folder, { recursive: true, force: true })
})

const acknowledged = (): number => {
  const lines = existsSync(journal) ? readFileSync(journal, 'utf8').trim().split('\n') : []
  return Number(lines.at(-1) ?? 0)
}
const program = (...words: string[]): ChildProcess =>
  spawn(process.execPath, ['--import', 'tsx', ...words], { stdio: ['ignore', 'ignore', 'inherit'] })
const startWriter = () =>
  program(
    'collector/testing/storeWriter.ts',
    cluster.url,
    journal,
    String(acknowledged()),
    JSON.stringify(sources),
  )
const startSealer = () => program('collector/testing/storeSealer.ts', cluster.url)

async function killed(child: ChildProcess): Promise<void> {
  const ended = new Promise((resolve) => child.once('exit', resolve))
  child.kill('SIGKILL')
  await ended
}

/** The server and all its processes at once, without a word. */
async function killServer(): Promise<void> {
  const pid = Number(readFileSync(join(folder, 'postgres', 'postmaster.pid'), 'utf8').split('\n')[0])
  const children = spawnSync('ps', ['-o', 'pid=', '--ppid', String(pid)], { encoding: 'utf8' }).stdout.split(
    '\n',
  )
  for (const each of [pid, ...children.map(Number).filter(Boolean)]) {
    try {
      process.kill(each, 'SIGKILL')
    } catch {
      // It ended by itself meanwhile.
    }
  }
  while (existsSync(`/proc/${pid}`)) await pause(20)
  await pause(100)
  cluster.start()
}

const sealedDays = async (): Promise<number> =>
  (await db.selectFrom('chunk').select('day').distinct().execute()).length

test('every acknowledged reading is there once, bit for bit, and nothing else', async () => {
  let writer = startWriter()
  let sealer = startSealer()
  while (acknowledged() < 1440) await pause(50)
  for (let round = 0; round < TIMES; round += 1) {
    await pause(200 + Math.random() * 700)
    await killed(sealer)
    sealer = startSealer()
    await pause(200 + Math.random() * 700)
    await killServer()
    await pause(200 + Math.random() * 700)
    await killed(writer)
    writer = startWriter()
  }
  await pause(2000)
  await killed(writer)
  await expect
    .poll(() => sealedDays(), { message: 'it was sealed meanwhile', timeout: 60_000 })
    .toBeGreaterThan(1)
  await killed(sealer)

  const count = acknowledged()
  const { sent } = await db
    .selectFrom('hot')
    .select((eb) => eb.fn.max('ts').as('sent'))
    .executeTakeFirstOrThrow()
  // One commit may have been made without its acknowledgement reaching the writer.
  expect(sent === null ? 0 : sent.getTime()).toBeLessThan(madeInstant(count + 30))
  for (const [source, { layout }] of sources.entries()) {
    const curves = await readSpans(db, layout.seriesIds, 0, madeInstant(count + 1000))
    for (const [slot, id] of layout.seriesIds.entries()) {
      const { times, values } = curves.get(id)!
      const lastMs = times.at(-1)!
      const end = Math.max(count, Math.round((lastMs - madeInstant(0)) / 60_000) + 1)
      expect(end).toBeLessThanOrEqual(count + 30)
      const expected = Array.from(
        { length: end },
        (_, index) => [madeInstant(index), madeValue(source, slot, index)] as const,
      ).filter(([, value]) => value !== null)
      expect(times.length).toBe(expected.length)
      expect([...times]).toEqual(expected.map(([atMs]) => atMs))
      expect(expected.every(([, value], index) => Object.is(values[index], value))).toBe(true)
      const span = { fromMs: FIRST_DAY * DAY, toMs: (FIRST_DAY + 400) * DAY, bucketMs: DAY }
      const { buckets } = await aggregate(db, id, span)
      expect(
        buckets.reduce((total, bucket) => total + bucket.count, 0),
        'the summaries count the same',
      ).toBe(expected.length)
    }
  }
  expect(await db.selectFrom('correction').select('id').execute()).toEqual([])
}, 300_000)
