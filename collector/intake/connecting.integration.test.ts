import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { CounterFinding, Findings } from '#core/gear'
import {
  findCheck,
  requestCheckRun,
  takeCheck,
  listItems,
  pickItems,
  insertSource,
  claimSender,
  deliverClaimed,
  keepPending,
  listPending,
  refuseSender,
  newToken,
  type PendingMoment,
} from '#db/sources'
import type { Db } from '#db/platform'
import { type Placement, storeFindings } from '#db/gear'
import { ensurePartitions, latestReadings, readSpan } from '#db/readings'
import { freshDatabase } from '#db/testing/database'
import { serverFindings } from '#db/testing/findings'
import type { Driver } from '#protocols/driver'
import { Checks } from './checks.ts'
import { Rates } from './rates.ts'

const NOON = Date.UTC(2026, 4, 1, 12)
const KEY = Buffer.alloc(32, 7)
let fresh: Awaited<ReturnType<typeof freshDatabase>>
let db: Db
let made = 0

beforeAll(async () => {
  fresh = await freshDatabase()
  db = fresh.db
  await ensurePartitions(db, NOON, NOON)
})
afterAll(() => fresh.drop())

const newSource = (newItems: 'take' | 'ask' = 'take') =>
  insertSource(db, {
    name: `source ${(made += 1)}`,
    protocol: 'redfish',
    address: 'https://127.0.0.1',
    settings: {},
    intervalSeconds: 10,
    newItems,
    credentialId: null,
    token: null,
  })

const fan = (number: number, idle?: string) => ({
  key: `fan ${number}`,
  kind: 'fan' as const,
  name: `Fan ${number}`,
  facts: {},
  ...(idle === undefined ? {} : { idle }),
})
/** A server with some fans, each with a speed. */
function withFans(name: string, fans: readonly ReturnType<typeof fan>[]): Findings {
  const found = serverFindings({ key: name, name, identities: [], parts: fans })
  const readings = fans.map(({ key }, index) => ({
    gear: name,
    part: key,
    measure: 'hw.fan.speed' as const,
    value: 5000 + index,
  }))
  return { ...found, readings: [...readings, ...found.readings.filter((each) => each.part === null)] }
}
async function store(sourceId: number, second: number, findings: Findings): Promise<Placement> {
  const moment = { sourceId, atMs: NOON + second * 1000, findings }
  return (await db.transaction().execute((trx) => storeFindings(trx, moment, null))).placement
}
const states = async (sourceId: number): Promise<Record<string, string>> =>
  Object.fromEntries(
    (await listItems(db, sourceId)).map(({ partKey, state, goneAt }) => [
      partKey ?? 'itself',
      goneAt === null ? state : `${state}, gone`,
    ]),
  )

describe('what is watched of a source', () => {
  test('at first is everything but what is idle, with why', async () => {
    const sourceId = await newSource()
    const { layout, kept } = await store(sourceId, 0, withFans('a', [fan(1), fan(2, 'empty bay')]))
    expect(await states(sourceId)).toEqual({ itself: 'watched', 'fan 1': 'watched', 'fan 2': 'left' })
    expect((await listItems(db, sourceId)).find((item) => item.partKey === 'fan 2')?.why).toBe('empty bay')
    expect(kept).toEqual([0, 2])
    expect(layout.seriesIds).toHaveLength(2)
    const latest = await latestReadings(db, [sourceId])
    expect(layout.seriesIds.map((id) => latest.get(id)?.value)).toEqual([5000, 250])
  })
  test.each([
    { policy: 'take', becomes: 'watched', readings: 3 },
    { policy: 'ask', becomes: 'waiting', readings: 2 },
  ] as const)('what appears later with the policy “$policy” is $becomes', async ({ policy, ...rest }) => {
    const sourceId = await newSource(policy)
    await store(sourceId, 0, withFans(policy, [fan(1)]))
    const { layout } = await store(sourceId, 10, withFans(policy, [fan(1), fan(2)]))
    expect(await states(sourceId)).toMatchObject({ 'fan 1': 'watched', 'fan 2': rest.becomes })
    expect(layout.seriesIds).toHaveLength(rest.readings)
    await pickItems(db, sourceId, [{ gearKey: policy, partKey: 'fan 2', isWatched: true }])
    expect((await store(sourceId, 20, withFans(policy, [fan(1), fan(2)]))).layout.seriesIds).toHaveLength(3)
  })
  test('what goes is marked as gone, and is back when it returns; what was picked stays as it was', async () => {
    const sourceId = await newSource()
    const both = withFans('b', [fan(1), fan(2)])
    await store(sourceId, 0, both)
    await pickItems(db, sourceId, [{ gearKey: 'b', partKey: 'fan 1', isWatched: false }])
    await store(sourceId, 10, withFans('b', [fan(1)]))
    expect(await states(sourceId)).toEqual({ itself: 'watched', 'fan 1': 'left', 'fan 2': 'watched, gone' })
    await store(sourceId, 20, both)
    expect(await states(sourceId)).toEqual({ itself: 'watched', 'fan 1': 'left', 'fan 2': 'watched' })
  })
  test('without the gear its parts are not read either', async () => {
    const sourceId = await newSource()
    await store(sourceId, 0, withFans('c', [fan(1)]))
    await pickItems(db, sourceId, [{ gearKey: 'c', partKey: null, isWatched: false }])
    expect((await store(sourceId, 10, withFans('c', [fan(1)]))).layout.seriesIds).toEqual([])
  })
})

describe('counts of the far side become rates', () => {
  const port = (octets: bigint, countingMs: number, bits: 32 | 64 = 32): Findings => {
    const counter: CounterFinding = {
      gear: 'p',
      part: 'fan 1',
      measure: 'hw.network.io.receive',
      value: String(octets),
      bits,
      countingMs,
    }
    return { ...serverFindings({ key: 'p', name: 'p', identities: [] }), counters: [counter] }
  }
  test('over a wrap and a restart, into the store', async () => {
    const sourceId = await newSource()
    const rates = new Rates()
    const steps: [bigint, number, number | null][] = [
      [2n ** 32n - 5000n, 1_000_000, null],
      [5000n, 1_010_000, 1000],
      [25_000n, 1_020_000, 2000],
      // Started anew: nothing is known of what it counted in between.
      [100n, 3000, null],
      [10_100n, 13_000, 1000],
    ]
    for (const [index, [octets, countingMs, expected]] of steps.entries()) {
      const settled = rates.settle(sourceId, NOON + index * 10_000, port(octets, countingMs))
      expect(settled.counters).toBeUndefined()
      const { layout } = await store(sourceId, index * 10, settled)
      const latest = await latestReadings(db, [sourceId])
      expect(latest.get(layout.seriesIds.at(-1)!)?.value ?? null).toBe(expected)
    }
  })
  test('a moment that comes twice, or late, disturbs nothing', () => {
    const rates = new Rates()
    const rate = (second: number, octets: bigint) =>
      rates.settle(1, NOON + second * 1000, port(octets, 1_000_000 + second * 1000, 64)).readings.at(-1)
        ?.value
    expect(rate(0, 0n)).toBeNull()
    expect(rate(10, 1000n)).toBe(100)
    expect(rate(10, 1000n)).toBeNull()
    expect(rate(5, 500n)).toBeNull()
    expect(rate(20, 3000n)).toBe(200)
  })
})

describe('a check that somebody asks for', () => {
  const request = (secret: Record<string, string> | null) =>
    requestCheckRun(db, KEY, {
      requestedBy: 'Asta Holm',
      sourceId: null,
      protocol: 'redfish',
      address: 'https://127.0.0.1:1',
      settings: {},
      credentialId: null,
      secret,
    })
  const driver: Driver = {
    protocol: 'redfish',
    reach: () => ({
      host: '127.0.0.1',
      port: 1,
      transport: 'udp',
      trust: { authorityPem: null, fingerprint: null },
    }),
    collect: ({ target }) =>
      Promise.resolve({
        kind: 'found',
        found: serverFindings({ facts: { user: target.secret['username'] ?? '' } }),
      }),
  }
  const over = async (id: string) => {
    for (;;) {
      const check = await findCheck(db, id)
      if (check?.finishedAt != null) return check
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
  }

  test('is done with the secret that was typed, which no row shows', async () => {
    const id = await request({ username: 'reader', password: 'do-not-show-this' })
    const checks = new Checks(db, KEY, new Map([['redfish', driver]]))
    await checks.look()
    const check = await over(id)
    await checks.close()
    expect(check.failure).toBeNull()
    expect(check.findings?.gear[0]?.facts).toEqual({ user: 'reader' })
    const row = await db.selectFrom('checkRun').selectAll().where('id', '=', id).executeTakeFirstOrThrow()
    expect(JSON.stringify({ ...row, sealed: row.sealed?.toString('latin1') })).not.toContain(
      'do-not-show-this',
    )
    expect(JSON.stringify(check)).not.toContain('do-not-show-this')
  })
  test('is done once, whoever asks; one whose collector died is done again', async () => {
    const ids = new Set([await request(null), await request(null)])
    const taken = await Promise.all([1, 2, 3].map(() => takeCheck(db, KEY)))
    expect(new Set(taken.flatMap((check) => (check === null ? [] : [check.id])))).toEqual(ids)
    const [first] = ids
    await db
      .updateTable('checkRun')
      .set({ startedAt: new Date(Date.now() - 200_000) })
      .where('id', '=', first!)
      .execute()
    expect((await takeCheck(db, KEY))?.id).toBe(first)
    expect(await takeCheck(db, KEY)).toBeNull()
  })
  test('of what a driver cannot use says so, and does not hang', async () => {
    const broken: Driver = {
      ...driver,
      reach: () => {
        throw new Error('no such setting')
      },
    }
    await db.deleteFrom('checkRun').execute()
    const id = await request(null)
    const checks = new Checks(db, KEY, new Map([['redfish', broken]]))
    await checks.look()
    expect((await over(id)).failure).toMatchObject({ kind: 'unsupported' })
    await checks.close()
  })
})

describe('a sender that nobody knows', () => {
  const token = Buffer.alloc(32, 9)
  const pushed = (second: number) =>
    keepPending(db, {
      tokenHash: token,
      address: '127.0.0.1',
      heardAt: new Date(NOON + second * 1000),
      moments: [
        {
          atMs: NOON + second * 1000,
          findings: serverFindings({ key: 's', name: 'skerry-01', identities: [], watts: 100 + second }),
        },
      ],
    })
  const bringIn = async (): Promise<number> => {
    let count = 0
    const one = () =>
      deliverClaimed(db, async (sourceId, _heardAt, moments) => {
        for (const { atMs, findings } of moments)
          await db.transaction().execute((trx) => storeFindings(trx, { sourceId, atMs, findings }, null))
      })
    while (await one()) count += 1
    return count
  }

  test('waits with what it says of itself; once claimed all that it has pushed is there', async () => {
    for (const second of [0, 10, 20]) expect(await pushed(second)).toBe('kept')
    const [sender] = await listPending(db)
    expect(sender).toMatchObject({ pushes: 3, readings: 2, gear: [{ name: 'skerry-01', kind: 'server' }] })
    expect(await bringIn(), 'nothing is brought in before').toBe(0)
    const sourceId = await claimSender(db, { id: sender!.id, name: 'skerry', intervalSeconds: 10 })
    expect(await claimSender(db, { id: sender!.id, name: 'skerry 2', intervalSeconds: 10 })).toBeNull()
    expect(await bringIn()).toBe(3)
    expect(await bringIn()).toBe(0)
    const { id } = await db
      .selectFrom('series')
      .select('id')
      .where('sourceId', '=', sourceId)
      .where('measure', '=', 'hw.power')
      .executeTakeFirstOrThrow()
    expect([...(await readSpan(db, id, NOON, NOON + 60_000)).values]).toEqual([100, 110, 120])
    expect(await listPending(db)).toEqual([])
    const source = await db
      .selectFrom('source')
      .select('tokenHash')
      .where('id', '=', sourceId)
      .executeTakeFirstOrThrow()
    expect(source.tokenHash?.equals(token)).toBe(true)
  })
  test('stays away once it is refused', async () => {
    const other = Buffer.alloc(32, 8)
    const push = () =>
      keepPending(db, { tokenHash: other, address: '127.0.0.1', heardAt: new Date(NOON), moments: [] })
    expect(await push()).toBe('kept')
    await refuseSender(db, (await listPending(db))[0]!.id)
    expect(await push()).toBe('refused')
    expect(await listPending(db)).toEqual([])
  })
  const fromAddress = (address: string, number: number, moments: PendingMoment[] = []) =>
    keepPending(db, {
      tokenHash: Buffer.concat([Buffer.from([number]), Buffer.from(address.padEnd(31, '.').slice(0, 31))]),
      address,
      heardAt: new Date(NOON),
      moments,
    })
  test('does not fill the disk by being many, nor takes the room of all others', async () => {
    for (let number = 0; number < 7; number += 1)
      expect(await fromAddress('192.0.2.1', number)).toBe(number < 5 ? 'kept' : 'tooMany')
    const outcomes: string[] = []
    for (let host = 2; host < 30; host += 1)
      for (let number = 0; number < 5; number += 1)
        outcomes.push(await fromAddress(`192.0.2.${host}`, number))
    expect(outcomes.filter((each) => each === 'kept')).toHaveLength(45)
    expect(outcomes.at(-1)).toBe('tooMany')
  })
  test('those that were refused, and those that have stopped, do not close claiming for others', async () => {
    for (const { id } of await listPending(db)) await refuseSender(db, id)
    expect(await fromAddress('198.51.100.1', 1)).toBe('kept')
    await db
      .updateTable('pendingSender')
      .set({ refusedAt: new Date(NOON - 31 * 86_400_000) })
      .where('isRefused', '=', true)
      .execute()
    await db
      .updateTable('pendingSender')
      .set({ lastAt: new Date(NOON - 3 * 86_400_000) })
      .where('isRefused', '=', false)
      .execute()
    expect(await fromAddress('198.51.100.2', 1)).toBe('kept')
    expect(
      await db.selectFrom('pendingSender').select('address').where('sourceId', 'is', null).execute(),
    ).toEqual([{ address: '198.51.100.2' }])
  })
  test('what it pushes is kept with its gear once, the newest of it within a bound', async () => {
    const gear = Array.from({ length: 100 }, (_, index) =>
      serverFindings({ key: `g${index}`, name: `gear ${index}`, identities: [], watts: index }),
    )
    const findings = {
      gear: gear.flatMap((each) => each.gear),
      links: [],
      readings: gear.flatMap((each) => each.readings),
    }
    const moments = (count: number) =>
      Array.from({ length: count }, (_, index) => ({ atMs: NOON + index, findings }))
    expect(await fromAddress('198.51.100.3', 1, moments(100))).toBe('tooLarge')
    for (let push = 0; push < 60; push += 1)
      expect(await fromAddress('198.51.100.3', 1, moments(10))).toBe('kept')
    const { bytes, count } = await db
      .selectFrom('pendingPush')
      .innerJoin('pendingSender', 'pendingSender.id', 'pendingPush.senderId')
      .select((eb) => [eb.fn.sum<number>('bytes').as('bytes'), eb.fn.countAll<string>().as('count')])
      .where('address', '=', '198.51.100.3')
      .executeTakeFirstOrThrow()
    expect(Number(bytes)).toBeLessThan(8 * 1024 * 1024)
    expect(Number(count)).toBeLessThan(60)
    expect(Number(count)).toBeGreaterThan(10)
    const sender = (await listPending(db)).find(({ address }) => address === '198.51.100.3')
    const sourceId = await claimSender(db, { id: sender!.id, name: 'many', intervalSeconds: 10 })
    const brought: number[] = []
    await deliverClaimed(db, (_, __, found) => {
      brought.push(found.length, found[9]!.findings.gear.length, found[9]!.findings.readings.length)
      return Promise.resolve()
    })
    expect(brought).toEqual([10, 100, findings.readings.length])
    await db.deleteFrom('pendingSender').where('sourceId', '=', sourceId).execute()
  })
  test('may speak for the gear that it was claimed for; further gear waits for a word, machines do not', async () => {
    const uuid = (tail: string) => `6f1c2a4e-0b7d-4c55-9e10-0000000000${tail}`
    const of = (key: string, tail: string, kind: 'server' | 'machine' = 'server') => {
      const found = serverFindings({
        key,
        name: key,
        identities: [{ kind: 'uuid', value: uuid(tail) }],
        watts: 1,
      })
      return { ...found, gear: found.gear.map((each) => ({ ...each, kind })) }
    }
    const victim = await db.transaction().execute(async (trx) => {
      const sourceId = await insertSource(trx, {
        name: 'controller of the victim',
        protocol: 'redfish',
        address: 'https://192.0.2.77',
        settings: {},
        intervalSeconds: 10,
        credentialId: null,
        token: newToken(),
      })
      await storeFindings(trx, { sourceId, atMs: NOON, findings: of('victim', '71') }, null)
      return trx.selectFrom('gear').select('id').where('name', '=', 'victim').executeTakeFirstOrThrow()
    })
    expect(await fromAddress('203.0.113.9', 1, [{ atMs: NOON, findings: of('own', '72') }])).toBe('kept')
    const sender = (await listPending(db)).find(({ address }) => address === '203.0.113.9')
    const sourceId = (await claimSender(db, { id: sender!.id, name: 'bound', intervalSeconds: 10 }))!
    const bring = (second: number, findings: Findings) =>
      db
        .transaction()
        .execute((trx) => storeFindings(trx, { sourceId, atMs: NOON + second * 1000, findings }, null))
    await bring(1, of('own', '72'))
    await bring(2, of('forged', '71'))
    await bring(3, of('guest', '73', 'machine'))
    await bring(4, of('forged guest', '71', 'machine'))
    const states = Object.fromEntries(
      (await listItems(db, sourceId))
        .filter(({ partKey }) => partKey === null)
        .map(({ gearKey, state }) => [gearKey, state]),
    )
    expect(states).toEqual({ own: 'watched', forged: 'waiting', guest: 'watched', 'forged guest': 'waiting' })
    expect(
      await db
        .selectFrom('sighting')
        .select('sourceId')
        .where('gearId', '=', victim.id)
        .where('sourceId', '=', sourceId)
        .execute(),
    ).toEqual([])
  })
})
