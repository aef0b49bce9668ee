import { type ChildProcess, spawn } from 'node:child_process'
import { chmodSync, mkdtempSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { connect, type Db, migrate, openPool } from '#db/platform'
import { readSpan } from '#db/readings'
import { openKeyFile } from '#db/sources'
import { SEEDS } from '#protocols/seeds'
import { freePort, freePorts, openCluster } from '../../bin/setup/postgres.mjs'
import { loadDemo } from '../../standins/demo/demo.ts'

// A collector at work whose clock somebody sets: an hour forward, back again, and back into a time that was read already.
// Nothing that it said is safe is missing, faults are told as fast as before, and nothing is silent that is heard.

const INTERVAL_MS = 2000
const HOUR_MS = 3_600_000
const WATCHED = ['petrel-05', 'petrel-06', 'petrel-07'] as const
const folder = mkdtempSync(join(tmpdir(), 'rack-clock-'))
const shift = join(folder, 'shift')
const logPath = join(folder, 'collector.log')
const startedMs = Date.now()
let cluster: Awaited<ReturnType<typeof openCluster>>
let db: Db
let portBase: number
const children: ChildProcess[] = []

const setClock = (offMs: number): void => writeFileSync(shift, String(offMs))

beforeAll(async () => {
  chmodSync(folder, 0o755)
  setClock(0)
  cluster = await openCluster({ folder, port: await freePort() })
  db = connect(openPool(cluster.url))
  await migrate(db, SEEDS)
  portBase = await freePorts(40)
  await loadDemo(db, {
    key: openKeyFile(join(folder, 'secret.key')),
    standinFolder: join(folder, 'standins'),
    portBase,
    intervalSeconds: INTERVAL_MS / 1000,
    nowMs: Date.now() - 600_000,
    only: [...WATCHED, 'petrel-07 hypervisor'],
  })
  const env = {
    ...process.env,
    RACK_DATABASE_URL: cluster.url,
    RACK_DATA: folder,
    RACK_PORT: String(portBase),
    RACK_RECEIVER_PORT: String(portBase + 2),
    RACK_DEMO_INTERVAL_MS: String(INTERVAL_MS),
    RACK_STANDIN_SENDERS: 'petrel-07',
    RACK_LOG: 'debug',
  }
  const log = openSync(logPath, 'a')
  const run = (path: string, more: readonly string[], rest: NodeJS.ProcessEnv): void => {
    children.push(
      spawn(process.execPath, [...more, path], { env: { ...env, ...rest }, stdio: ['ignore', log, log] }),
    )
  }
  run('programs/standins.mjs', [], {})
  run('programs/collector.mjs', ['--import', './collector/testing/shiftedClock.mjs'], {
    RACK_SHIFTED_CLOCK: shift,
  })
}, 60_000)
afterAll(async () => {
  for (const child of children) child.kill('SIGKILL')
  await db.destroy()
  cluster.kill()
  rmSync(folder, { recursive: true, force: true })
})

interface Said {
  readonly msg: string
  readonly source?: string
  readonly slot?: number
}
const safe = (name: string): number[] =>
  readFileSync(logPath, 'utf8')
    .split('\n')
    .filter((line) => line.startsWith('{'))
    .map((line) => JSON.parse(line) as Said)
    .flatMap(({ msg, source, slot }) =>
      msg === 'a reading is safe' && source === `${name} controller` ? [slot!] : [],
    )
const until = (what: () => Promise<boolean> | boolean, words: string, timeout = 30_000) =>
  expect.poll(what, { message: words, timeout, interval: 200 }).toBe(true)
/** Each of them was read so many times more. */
async function readings(more: number): Promise<void> {
  const before = WATCHED.map((name) => safe(name).length)
  await until(
    () => WATCHED.every((name, index) => safe(name).length >= before[index]! + more),
    `${more} readings of each`,
    60_000,
  )
}
const alerts = (like: string) =>
  db
    .selectFrom('alert')
    .select(['title', 'ruleKey', 'clearedAt'])
    .where('title', 'like', `%${like}%`)
    .orderBy('id')
    .execute()
/** A machine that stood still for a moment itself has heard nothing for some seconds; a clock that was set, for far longer. */
async function nothingIsSilent(): Promise<void> {
  const titles = (await alerts('said nothing')).map(({ title }) => title)
  expect(
    titles.filter((title) => !/for \d+.s$/.test(title)),
    'nothing is silent for the clock’s sake',
  ).toEqual([])
  await until(
    async () => (await alerts('said nothing')).every(({ clearedAt }) => clearedAt !== null),
    'all are heard',
  )
}
/** Faults are caused through a port that the stand-ins open last. */
const control = async (what: 'cause' | 'mend', gear: string, fault?: string, part?: string) => {
  const body = JSON.stringify({ gear, fault, part })
  const asked = () => fetch(`http://127.0.0.1:${portBase + 10}/${what}`, { method: 'POST', body })
  await until(
    () =>
      asked()
        .then((reply) => reply.ok)
        .catch(() => false),
    `${what} ${gear}`,
  )
}
/** A stopped fan is an alert within three readings, and is over when it runs again. */
async function faultIsTold(gear: string): Promise<void> {
  await control('cause', gear, 'stop-fan', '3')
  const isOpen = async () => (await openFans(gear)) > 0
  await until(isOpen, `${gear}: told`, 15_000)
  await control('mend', gear)
  await until(async () => !(await isOpen()), `${gear}: over`, 20_000)
}
const openFans = async (gear: string): Promise<number> => {
  const { count } = await db
    .selectFrom('alert')
    .innerJoin('gear', 'gear.id', 'alert.gearId')
    .innerJoin('part', 'part.id', 'alert.partId')
    .select((eb) => eb.fn.countAll<string>().as('count'))
    .where('gear.name', '=', gear)
    .where('part.kind', '=', 'fan')
    .where('clearedAt', 'is', null)
    .executeTakeFirstOrThrow()
  return Number(count)
}
const storedTimes = async (gear: string): Promise<Set<number>> => {
  const { id } = await db
    .selectFrom('series')
    .innerJoin('gear', 'gear.id', 'series.gearId')
    .innerJoin('part', 'part.id', 'series.partId')
    .innerJoin('source', 'source.id', 'series.sourceId')
    .select('series.id')
    .where('gear.name', '=', gear)
    .where('source.name', '=', `${gear} controller`)
    .where('measure', '=', 'hw.temperature')
    .where('part.name', '=', 'inlet')
    .executeTakeFirstOrThrow()
  const { times } = await readSpan(db, id, startedMs - 2 * HOUR_MS, Date.now() + 2 * HOUR_MS)
  return new Set(times)
}

test('a clock that is set forward, back, and into a time that was read already', async () => {
  await readings(1)
  await faultIsTold('petrel-05')

  setClock(HOUR_MS)
  await readings(2)
  await faultIsTold('petrel-06')
  await nothingIsSilent()
  await until(
    async () => (await alerts('The clock of')).length > 0,
    'the sender and the clock here differ',
    60_000,
  )

  setClock(0)
  await readings(2)
  await faultIsTold('petrel-05')
  await until(
    async () => (await alerts('The clock of')).every(({ clearedAt }) => clearedAt !== null),
    'the clocks agree again',
    60_000,
  )

  // Into the minute that was just read: each slot comes again.
  setClock(-30_000)
  await readings(3)
  await faultIsTold('petrel-06')
  await nothingIsSilent()

  // What is silent now is said, though it was heard at a time that has not come yet.
  await control('cause', 'petrel-05', 'silent')
  await until(
    async () =>
      (await alerts('petrel-05 controller has said nothing')).some(({ clearedAt }) => clearedAt === null),
    'it is silent',
    45_000,
  )

  for (const name of WATCHED) {
    const slots = safe(name)
    expect(new Set(slots).size, `${name}: no instant twice`).toBe(slots.length)
    const kept = await storedTimes(name)
    expect(
      slots.filter((slot) => !kept.has(slot)),
      `${name}: said to be safe, and not stored`,
    ).toEqual([])
  }
}, 400_000)
