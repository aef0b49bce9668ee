import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { connect, type Db, openPool, migrate } from '#db/platform'
import { latestReadings } from '#db/readings'
import { insertSource } from '#db/sources'
import { serverFindings } from '#db/testing/findings'
import { freePort, openCluster } from '../../bin/setup/postgres.mjs'
import { Delivery, type StoredMoment, type Taken } from './delivery.ts'
import { Spool } from './spool.ts'
import { SEEDS } from '#protocols/seeds'

const folder = mkdtempSync(join(tmpdir(), 'rack-delivery-'))
let cluster: Awaited<ReturnType<typeof openCluster>>
let db: Db
let delivery: Delivery
let spool: Spool<Taken>
const stored: StoredMoment[] = []
const sources: number[] = []

beforeAll(async () => {
  chmodSync(folder, 0o755)
  cluster = await openCluster({ folder, port: await freePort(), extra: '-c fsync=off' })
  db = connect(openPool(cluster.url))
  await migrate(db, SEEDS)
  for (let index = 0; index < 20; index += 1) {
    const rest = {
      protocol: 'redfish',
      address: 'https://127.0.0.1',
      settings: {},
      intervalSeconds: 10,
    } as const
    sources.push(
      await insertSource(db, { name: `source ${index}`, ...rest, credentialId: null, token: null }),
    )
  }
  spool = new Spool(join(folder, 'spool'), 1 << 24)
  await spool.open()
  delivery = new Delivery(db, spool, async (moment) => {
    stored.push(moment)
    return Promise.resolve()
  })
})
afterAll(async () => {
  await delivery.close()
  await spool.close()
  await db.destroy()
  cluster.kill()
  rmSync(folder, { recursive: true })
})

const START = Math.floor(Date.now() / 1000) * 1000
const taken = (sourceId: number, second: number): Taken => ({
  sourceId,
  atMs: START + second * 1000,
  heardAtMs: START + second * 1000,
  durationMs: 3,
  findings: serverFindings({
    key: `server ${sourceId}`,
    identities: [{ kind: 'serial', value: `D-${sourceId}` }],
  }),
})
const rows = async (): Promise<number> =>
  Number(
    (
      await db
        .selectFrom('hot')
        .select((eb) => eb.fn.countAll().as('count'))
        .executeTakeFirstOrThrow()
    ).count,
  )

test('what comes at the same moment is committed together, judged in order of each source, and told once a source', async () => {
  await Promise.all([0, 1, 2].flatMap((second) => sources.map((id) => delivery.take(taken(id, second)))))
  expect(await rows()).toBe(60)
  for (const id of sources)
    expect(stored.filter((each) => each.taken.sourceId === id).map((each) => each.taken.atMs)).toEqual([
      START,
      START + 1000,
      START + 2000,
    ])
  const heard = await db.selectFrom('source').select('lastHeardAt').distinct().execute()
  expect(heard).toEqual([{ lastHeardAt: new Date(START + 2000) }])
})

test('one that the database will never take is refused alone', async () => {
  const outcomes = await Promise.allSettled([
    delivery.take(taken(sources[0]!, 10)),
    delivery.take(taken(999_999, 10)),
    delivery.take(taken(sources[1]!, 10)),
  ])
  expect(outcomes.map((outcome) => outcome.status)).toEqual(['fulfilled', 'rejected', 'fulfilled'])
  expect(await rows()).toBe(62)
})

test('a duplicate is acknowledged and judged no second time', async () => {
  const before = stored.length
  await delivery.take(taken(sources[0]!, 10))
  expect([await rows(), stored.length]).toEqual([62, before])
})

test('a past day gets its place, also after it was dropped', async () => {
  await delivery.take(taken(sources[0]!, -40 * 86_400))
  expect(await rows()).toBe(63)
})

test('while the database is away everything goes to disk, and from there in order, once', async () => {
  cluster.stop()
  await Promise.all(sources.map((id) => delivery.take(taken(id, 20))))
  expect(spool.isEmpty).toBe(false)
  await delivery.take(taken(sources[0]!, 21))
  cluster.start()
  for (let tries = 0; tries < 100 && !spool.isEmpty; tries += 1) await pause(100)
  expect(spool.isEmpty).toBe(true)
  expect(await rows()).toBe(63 + 21)
  expect(stored.at(-1)?.taken.atMs).toBe(START + 21_000)
})

test('a sender that brings now these series, now those, has the newest of each', async () => {
  const sourceId = await insertSource(db, {
    name: 'a sender in turns',
    protocol: 'otlp',
    address: 'pushes',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
  const first = serverFindings({ key: 'in turns', identities: [], rpm: 4000, watts: 250 })
  const fan = { ...first, readings: first.readings.filter(({ measure }) => measure === 'hw.fan.speed') }
  const power = { ...first, readings: first.readings.filter(({ measure }) => measure === 'hw.power') }
  const atMs = Math.floor(Date.now() / 1000) * 1000 - 60_000
  for (let index = 0; index < 6; index += 1)
    await delivery.take({
      sourceId,
      atMs: atMs + index * 5000,
      heardAtMs: Date.now(),
      durationMs: null,
      findings: index % 2 === 0 ? fan : power,
    })
  const latest: number[] = []
  ;(await latestReadings(db, [sourceId])).forEach((_, __, value) => latest.push(value))
  expect(latest.sort((a, b) => a - b)).toEqual([250, 4000])
})
