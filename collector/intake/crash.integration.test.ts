import { type ChildProcess, spawn } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, openSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { connect, type Db, openPool, migrate } from '#db/platform'
import { readSpan } from '#db/readings'
import { openKeyFile } from '#db/sources'
import { freePort, freePorts, openCluster } from '../../bin/setup/postgres.mjs'
import { loadDemo } from '../../standins/demo/demo.ts'
import type { JournalEntry } from '../../standins/journal.ts'
import { SERVERS } from '../../standins/site/index.ts'
import { SEEDS } from '#protocols/seeds'
import { sized } from '../../core/testing/size.ts'

// The whole way, with real processes: stand-ins that keep a journal of what they gave away, a collector that is killed
// while it collects, and a PostgreSQL (fsync on) that goes away for a while, a minute at full size. Then the journal is held against the store.

const INTERVAL_MS = 1000
const AWAY_MS = sized(20_000, 60_000)
/** A reading is given up after 5 s, on a machine that is busy somewhat later; no interval of this test is longer. */
const TIMEOUT_MS = 9000
const folder = mkdtempSync(join(tmpdir(), 'rack-crash-'))
const journalPath = join(folder, 'journal.jsonl')
const kills: number[] = []
let cluster: Awaited<ReturnType<typeof openCluster>>
let db: Db
let env: NodeJS.ProcessEnv
let standins: ChildProcess
let collector: ChildProcess

const logPath = join(folder, 'collector.log')
const program = (path: string): ChildProcess =>
  spawn(process.execPath, ['--import', 'tsx', path], {
    env,
    stdio: ['ignore', openSync(logPath, 'a'), openSync(logPath, 'a')],
  })
/** When the collector gave up reading a source: what was answered for that reading was never taken over. */
const givenUp = (source: string): number[] =>
  readFileSync(logPath, 'utf8')
    .split('\n')
    .filter((line) => line.includes('a source could not be read'))
    .map((line) => JSON.parse(line) as { time: number; source: string })
    .filter((line) => line.source === source)
    .map((line) => line.time)
/** What the collector said from a warning on, about an instant. */
const saidAround = (atMs: number): string[] =>
  readFileSync(logPath, 'utf8')
    .split('\n')
    .filter((line) => line.startsWith('{'))
    .map((line) => JSON.parse(line) as { time: number; level: number; msg: string; reason?: string })
    .filter(({ time, level }) => level >= 40 && Math.abs(time - atMs) < 2 * TIMEOUT_MS)
    .map(({ time, msg, reason }) => `${time - atMs} ms: ${msg} ${reason ?? ''}`)
/** Servers whose readings are held against what their stand-ins gave. */
const WATCHED = SERVERS.slice(0, 4).map(({ name }) => name)
const ended = (child: ChildProcess): Promise<unknown> =>
  new Promise((resolve) => (child.exitCode === null ? child.once('exit', resolve) : resolve(null)))

async function killCollector(): Promise<void> {
  collector.kill('SIGKILL')
  kills.push(Date.now())
  await ended(collector)
  collector = program('collector/main.ts')
}

beforeAll(async () => {
  chmodSync(folder, 0o755)
  cluster = await openCluster({ folder, port: await freePort() })
  db = connect(openPool(cluster.url))
  await migrate(db, SEEDS)
  const portBase = await freePorts(40)
  await loadDemo(db, {
    key: openKeyFile(join(folder, 'secret.key')),
    standinFolder: join(folder, 'standins'),
    portBase,
    intervalSeconds: INTERVAL_MS / 1000,
    nowMs: Date.now() - 600_000,
    only: [...WATCHED, 'harbour-A', 'harbour-B', 'petrel-07 hypervisor'],
  })
  env = {
    ...process.env,
    RACK_DATABASE_URL: cluster.url,
    RACK_DATA: folder,
    RACK_PORT: String(portBase),
    RACK_RECEIVER_PORT: String(portBase + 2),
    RACK_DEMO_INTERVAL_MS: String(INTERVAL_MS),
    RACK_STANDIN_JOURNAL: journalPath,
    RACK_STANDIN_SENDERS: 'petrel-07',
    RACK_LOG: 'debug',
  }
  standins = program('standins/main.ts')
  collector = program('collector/main.ts')
})
afterAll(async () => {
  standins.kill('SIGKILL')
  collector.kill('SIGKILL')
  await db.destroy()
  cluster.kill()
  rmSync(folder, { recursive: true, force: true })
})

/** Empty while the stand-ins have not answered anything yet. */
const journal = (): JournalEntry[] =>
  (existsSync(journalPath) ? readFileSync(journalPath, 'utf8') : '')
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as JournalEntry)

async function stored(source: string, measure: string, part: string | null): Promise<[number, number][]> {
  const found = await db
    .selectFrom('series')
    .innerJoin('source', 'source.id', 'series.sourceId')
    .innerJoin('gear', 'gear.id', 'series.gearId')
    .leftJoin('part', 'part.id', 'series.partId')
    .select('series.id')
    .where('source.name', '=', source)
    .where('series.measure', '=', measure as 'hw.temperature')
    .where('gear.kind', '=', 'server')
    .where('part.name', part === null ? 'is' : '=', part)
    .executeTakeFirstOrThrow()
  const { times, values } = await readSpan(db, found.id, startedMs, Date.now() + 60_000)
  return Array.from(times, (atMs, index) => [atMs, values[index]!] as [number, number])
}
const startedMs = Date.now()

/** Waits until a push that is made from now on is taken. */
async function accepting(): Promise<void> {
  const sinceMs = Date.now()
  for (let tries = 0; tries < 400; tries += 1) {
    if (journal().some(({ what, atMs }) => what === 'accepted' && atMs >= sinceMs)) return
    await pause(500)
  }
  throw new Error('the collector never came back')
}

test('kill -9 of the collector and a while without PostgreSQL: nothing taken over is lost, nothing is there twice', async () => {
  const restarts = sized(2, 4)
  await accepting()
  await pause(4000)
  for (let kill = 0; kill < restarts; kill += 1) {
    await killCollector()
    await pause(4000 + Math.random() * 1500)
  }
  // It must be at work again before the database goes: how long a start takes is not asked for here.
  await accepting()
  cluster.stop()
  const awayMs = Date.now()
  await pause(AWAY_MS)
  cluster.start()
  const backMs = Date.now()
  await pause(4000)
  // Whatever is still on disk must survive a crash while it is being delivered.
  await killCollector()
  await accepting()
  await pause(4000)
  standins.kill('SIGTERM')
  await ended(standins)
  await pause(4000)

  const entries = journal()
  const accepted = entries.filter((entry) => entry.what === 'accepted')
  // One a second; how many of them find a collector at work says how fast it starts, which is not asked for here.
  expect(accepted.length).toBeGreaterThan(sized(15, 30))
  // What waits on disk is delivered as fast as the machine can, which is not asked for here.
  const missing = async () => {
    const pushed = new Map(await stored('petrel-07 hypervisor', 'system.cpu.utilization', null))
    return accepted.filter((entry) => pushed.get(entry.atMs) !== entry.value)
  }
  for (let tries = 0; tries < 60 && (await missing()).length > 0; tries += 1) await pause(1000)
  expect(await missing()).toEqual([])
  expect(new Set(accepted.map((entry) => entry.atMs)).size, 'no push is acknowledged twice').toBe(
    accepted.length,
  )

  for (const name of WATCHED) {
    const answered = entries.filter((entry) => entry.what === 'answered' && entry.gear === name)
    const kept = await stored(`${name} controller`, 'hw.temperature', 'outlet')
    const unmatched = answered.slice()
    for (const [atMs, value] of kept) {
      const at = unmatched.findIndex(
        (entry) => entry.value === value && entry.atMs >= atMs - 50 && entry.atMs < atMs + 2 * INTERVAL_MS,
      )
      expect(
        at,
        `${name} at ${atMs} holds ${value}, which was never answered, or twice`,
      ).toBeGreaterThanOrEqual(0)
      unmatched.splice(at, 1)
    }
    const failures = givenUp(`${name} controller`)
    expect(failures.length, 'most readings succeeded').toBeLessThan(30)
    // Only a reading that was under way may be gone: the last answer before the collector was killed or gave up.
    const wasUnderWay = (atMs: number): boolean =>
      [...kills, ...failures].some(
        (endMs) =>
          atMs <= endMs &&
          endMs - atMs < TIMEOUT_MS &&
          !answered.some((other) => other.atMs > atMs && other.atMs <= endMs),
      )
    /** What happened around an answer: how many ms later, or before. */
    const around = (atMs: number, all: readonly number[]): number[] =>
      all.map((each) => each - atMs).filter((each) => Math.abs(each) < 3 * TIMEOUT_MS)
    const lost = unmatched
      .filter(({ atMs }) => !wasUnderWay(atMs))
      .map((entry) => ({
        ...entry,
        said: saidAround(entry.atMs),
        kills: around(entry.atMs, kills),
        failures: around(entry.atMs, failures),
        answers: around(
          entry.atMs,
          answered.map(({ atMs }) => atMs),
        ),
        kept: around(
          entry.atMs,
          kept.map(([atMs]) => atMs),
        ),
      }))
    expect(lost, `${name}: answered, and not stored`).toEqual([])
    const during = kept.filter(([atMs]) => atMs > awayMs + 1000 && atMs < backMs - 1000)
    expect(during.length, `${name} was read while PostgreSQL was away`).toBeGreaterThan(AWAY_MS / 2000)
  }
}, 900_000)
