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

/** A reading is given up after four fifths of it: at one second a busy machine gives up many. */
const INTERVAL_MS = 2000
const AWAY_MS = sized(20_000, 60_000)
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
  spawn(process.execPath, [path], {
    env,
    stdio: ['ignore', openSync(logPath, 'a'), openSync(logPath, 'a')],
  })
interface Said {
  readonly time: number
  readonly level: number
  readonly msg: string
  readonly source?: string
  readonly slot?: number
  readonly reason?: string
}
const said = (): Said[] =>
  readFileSync(logPath, 'utf8')
    .split('\n')
    .filter((line) => line.startsWith('{'))
    .map((line) => JSON.parse(line) as Said)

interface Reading {
  readonly slot: number
  readonly beganMs: number
  endedMs: number
  /** `safe`: it was taken over. `failed`: it was given up. `open`: nothing was heard of its end. */
  end: 'safe' | 'failed' | 'open'
}
/** The readings of a source by what the collector says of them: one after the other. */
function readingsOf(source: string): Reading[] {
  const found: Reading[] = []
  for (const { time, msg, slot } of said().filter((each) => each.source === source)) {
    const last = found.at(-1)
    if (last !== undefined && last.end === 'open') last.endedMs = time
    if (msg === 'a reading begins') found.push({ slot: slot!, beganMs: time, endedMs: Infinity, end: 'open' })
    else if (last !== undefined && msg === 'a reading is safe') last.end = 'safe'
    else if (last !== undefined && msg === 'a source could not be read') last.end = 'failed'
  }
  return found
}
const isKilled = ({ end, beganMs, endedMs }: Reading): boolean =>
  end === 'open' && kills.some((atMs) => atMs >= beganMs && atMs <= endedMs)
/**
 * Whether an answer may be gone: the reading that it was for was given up or killed. A stand-in that is late has it
 * written before it sees that nobody listens any more: then it is the first one after such a reading.
 */
function mayBeGone(atMs: number, answers: readonly number[], readings: readonly Reading[]): boolean {
  const before = readings.filter(({ beganMs }) => beganMs <= atMs).at(-1)
  if (before === undefined || !(before.end === 'failed' || isKilled(before))) return false
  return atMs <= before.endedMs || !answers.some((other) => other > before.endedMs && other < atMs)
}
/** What the collector said from a warning on, about an instant. */
const saidAround = (atMs: number): string[] =>
  said()
    .filter(({ time, level }) => level >= 40 && Math.abs(time - atMs) < 10_000)
    .map(({ time, msg, reason }) => `${time - atMs} ms: ${msg} ${reason ?? ''}`)
/** Servers whose readings are held against what their stand-ins gave. */
const WATCHED = SERVERS.slice(0, 4).map(({ name }) => name)
const ended = (child: ChildProcess): Promise<unknown> =>
  new Promise((resolve) => (child.exitCode === null ? child.once('exit', resolve) : resolve(null)))

async function killCollector(): Promise<void> {
  collector.kill('SIGKILL')
  kills.push(Date.now())
  await ended(collector)
  collector = program('programs/collector.mjs')
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
  standins = program('programs/standins.mjs')
  collector = program('programs/collector.mjs')
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

/** Waits until every watched source has been read from now on: one that failed while a collector started rests for minutes. */
async function reading(): Promise<void> {
  const sinceMs = Date.now()
  for (let tries = 0; tries < 600; tries += 1) {
    const isRead = (name: string): boolean =>
      readingsOf(`${name} controller`).some(({ end, endedMs }) => end === 'safe' && endedMs >= sinceMs)
    if (WATCHED.every(isRead)) return
    await pause(500)
  }
  throw new Error('not every source is read')
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
  await reading()
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
  // One an interval; how many of them find a collector at work says how fast it starts, which is not asked for here.
  expect(accepted.length).toBeGreaterThan(sized(8, 20))
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

  let keptWhileAway = 0
  for (const name of WATCHED) {
    const answered = entries.filter((entry) => entry.what === 'answered' && entry.gear === name)
    const kept = await stored(`${name} controller`, 'hw.temperature', 'outlet')
    const unmatched = answered.slice()
    for (const [atMs, value] of kept) {
      const fits = (entry: JournalEntry, earlyMs: number): boolean =>
        entry.value === value && entry.atMs >= atMs - earlyMs && entry.atMs < atMs + 2 * INTERVAL_MS
      // A late answer to the slot before may hold the same value: what comes after the slot is its own.
      const after = unmatched.findIndex((entry) => fits(entry, 0))
      const at = after === -1 ? unmatched.findIndex((entry) => fits(entry, 50)) : after
      expect(
        at,
        `${name} at ${atMs} holds ${value}, which was never answered, or twice`,
      ).toBeGreaterThanOrEqual(0)
      unmatched.splice(at, 1)
    }
    const readings = readingsOf(`${name} controller`)
    const unread = readings.filter(({ end }) => end !== 'safe')
    expect(unread.length, 'most readings succeeded').toBeLessThan(30)
    const slots = new Set(kept.map(([atMs]) => atMs))
    expect(
      readings.filter(({ end, slot }) => end === 'safe' && !slots.has(slot)),
      `${name}: said to be safe, and not stored`,
    ).toEqual([])
    const answers = answered.map(({ atMs }) => atMs)
    const lost = unmatched.filter(({ atMs }) => !mayBeGone(atMs, answers, readings))
    expect(
      lost.map((entry) => ({
        ...entry,
        kills: kills.map((atMs) => atMs - entry.atMs),
        said: saidAround(entry.atMs),
        readings: readings.filter(({ beganMs }) => Math.abs(beganMs - entry.atMs) < 10_000),
      })),
      `${name}: answered, and not stored`,
    ).toEqual([])
    const during = kept.filter(([atMs]) => atMs > awayMs + 1000 && atMs < backMs - 1000)
    keptWhileAway += during.length
    // One that is given up rests for longer each time: a busy machine may leave a source unread for as long as this.
    const isGivenUp = readings.some(
      ({ end, beganMs }) => end === 'failed' && beganMs > awayMs - 10_000 && beganMs < backMs,
    )
    expect(during.length > 0 || isGivenUp, `${name} was read while PostgreSQL was away`).toBe(true)
  }
  expect(keptWhileAway, 'sources were read while PostgreSQL was away').toBeGreaterThan(AWAY_MS / INTERVAL_MS)
}, 900_000)
