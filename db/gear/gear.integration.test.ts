import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest'
import { linksSeenFrom } from '#core/links'
import type { Db } from '../platform/connect.ts'
import { find } from './find.ts'
import { storeFindings } from './findings.ts'
import { findGear, listGear, listParts } from './gear.ts'
import { linksByGear } from '../links/links.ts'
import { announce, type LiveEvent, listen } from '../platform/live.ts'
import { insertRack, insertRoom, placeGearInRack } from '../site/places.ts'
import { ensurePartitions } from '../readings/index.ts'
import { insertSource } from '../sources/sources.ts'
import { freshDatabase } from '../testing/database.ts'
import { serverFindings } from '../testing/findings.ts'

const NOW = Date.UTC(2026, 10, 24, 12)
const UUID = '6f1c2a4e-0b7d-4c55-9e10-000000000719'
let db: Db
let url: string
let drop: () => Promise<void>

beforeAll(async () => {
  ;({ db, url, drop } = await freshDatabase())
  await ensurePartitions(db, NOW, NOW)
})
afterAll(() => drop())
beforeEach(async () => {
  await db.deleteFrom('source').execute()
  await db.deleteFrom('gear').execute()
})

const source = (name: string): Promise<number> =>
  insertSource(db, {
    name,
    protocol: 'redfish',
    address: 'a',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
const see = (sourceId: number, rest: Parameters<typeof serverFindings>[0], atMs = NOW) =>
  storeFindings(db, { sourceId, atMs, findings: serverFindings(rest) }, null)

test('that a source has brought something new is announced, once', async () => {
  const heard: LiveEvent[] = []
  const live = listen(
    url,
    (event) => heard.push(event),
    () => undefined,
  )
  const news = () => heard.filter(({ topic }) => topic === 'series').length
  const controller = await source('controller')
  const [fewer, more] = [{ name: 'petrel-01' }, { name: 'petrel-02' }]
  await expect
    .poll(async () => {
      await announce(db, { topic: 'alerts' })
      return heard.length
    })
    .toBeGreaterThan(0)
  await see(controller, fewer)
  await expect.poll(news).toBe(1)
  await see(controller, fewer, NOW + 10_000)
  await see(controller, more, NOW + 20_000)
  await expect.poll(news).toBe(1)
  await see(await source('another'), { key: '/another', name: 'petrel-03' }, NOW + 20_000)
  await expect.poll(news).toBe(2)
  await live.close()
})

describe('the same box is one gear', () => {
  test('seen by its controller and by its hypervisor', async () => {
    const [controller, hypervisor] = [await source('controller'), await source('hypervisor')]
    await see(controller, {
      key: '/redfish/v1/Systems/1',
      identities: [
        { kind: 'uuid', value: UUID.toUpperCase() },
        { kind: 'serial', value: 'NV24-00719' },
      ],
    })
    await see(hypervisor, {
      key: UUID,
      identities: [{ kind: 'uuid', value: UUID }],
      facts: { cluster: 'north' },
    })
    const gear = await listGear(db)
    expect(gear).toHaveLength(1)
    expect(gear[0]?.sourceIds).toEqual([controller, hypervisor].sort((a, b) => a - b))
    expect(gear[0]?.facts).toEqual({ model: 'H24', cluster: 'north' })
  })

  test('by its serial alone, when only that is shared', async () => {
    await see(await source('a'), {
      identities: [
        { kind: 'serial', value: 'nv24-1 ' },
        { kind: 'uuid', value: UUID },
      ],
    })
    await see(await source('b'), { identities: [{ kind: 'serial', value: 'NV24-1' }] })
    expect(await listGear(db)).toHaveLength(1)
  })

  test('and two boxes with a placeholder for a serial are two', async () => {
    await see(await source('a'), { identities: [{ kind: 'serial', value: 'To be filled by O.E.M.' }] })
    await see(await source('b'), { identities: [{ kind: 'serial', value: 'To be filled by O.E.M.' }] })
    expect(await listGear(db)).toHaveLength(2)
  })

  test('even when both sources see it for the first time at once', async () => {
    const ids = await Promise.all(['a', 'b', 'c', 'd'].map(source))
    await Promise.all(
      ids.map((sourceId) =>
        db
          .transaction()
          .execute((trx) => storeFindings(trx, { sourceId, atMs: NOW, findings: serverFindings() }, null)),
      ),
    )
    expect(await listGear(db)).toHaveLength(1)
  })
})

test('a part that is no longer reported is kept and no longer shown', async () => {
  const sourceId = await source('a')
  await see(sourceId, {})
  const [gear] = await listGear(db)
  const findings = serverFindings()
  const drive = { key: 'drive 0', kind: 'drive' as const, name: 'd0', facts: { serial: 'AM-1' } }
  const changed = { ...findings, gear: [{ ...findings.gear[0]!, parts: [drive] }], readings: [] }
  await storeFindings(db, { sourceId, atMs: NOW + 1, findings: changed }, null)
  expect((await listParts(db, gear!.id)).map((part) => part.key)).toEqual(['drive 0'])
  const all = await db.selectFrom('part').select('key').execute()
  expect(all).toHaveLength(2)
})

test('links are seen from both ends', async () => {
  const sourceId = await source('a')
  const host = serverFindings().gear[0]!
  const machine = {
    ...host,
    key: 'vm',
    kind: 'machine' as const,
    name: 'tide-model-03',
    identities: [],
    parts: [],
  }
  const links = [
    { kind: 'hosts' as const, from: 'server', to: 'vm' },
    { kind: 'hosts' as const, from: 'server', to: 'nobody' },
  ]
  await storeFindings(
    db,
    { sourceId, atMs: NOW, findings: { gear: [host, machine], links, readings: [] } },
    null,
  )
  const gear = await listGear(db)
  const [a, b] = [gear.find((each) => each.kind === 'server')!, gear.find((each) => each.kind === 'machine')!]
  expect(linksSeenFrom(a.id, (await linksByGear(db)).get(a.id) ?? [])).toMatchObject([
    { kind: 'hosts', otherId: b.id, isOutgoing: true },
  ])
  expect(linksSeenFrom(b.id, (await linksByGear(db)).get(b.id) ?? [])).toMatchObject([
    { kind: 'hosts', otherId: a.id, isOutgoing: false },
  ])
  expect(b.onName).toBe('petrel-01')
})

test('two gear cannot stand in one unit, and none outside its rack', async () => {
  await see(await source('a'), { identities: [{ kind: 'serial', value: 'A' }] })
  await see(await source('b'), { identities: [{ kind: 'serial', value: 'B' }] })
  const [a, b] = await listGear(db)
  const rackId = await insertRack(db, {
    roomId: await insertRoom(db, { name: 'Breakwater Hall' }),
    name: 'B04',
    heightUnits: 42,
  })
  expect(await placeGearInRack(db, a!.id, { rackId, unit: 18, heightUnits: 2 })).toEqual({ kind: 'placed' })
  expect(await placeGearInRack(db, b!.id, { rackId, unit: 19, heightUnits: 1 })).toMatchObject({
    kind: 'occupied',
    by: [{ id: a!.id, unit: 18 }],
  })
  expect(await placeGearInRack(db, b!.id, { rackId, unit: 42, heightUnits: 2 })).toEqual({
    kind: 'outside',
    heightUnits: 42,
  })
  expect(await placeGearInRack(db, b!.id, { rackId, unit: 20, heightUnits: 1 })).toEqual({ kind: 'placed' })
  expect(await findGear(db, b!.id)).toMatchObject({ rackName: 'B04', roomName: 'Breakwater Hall', unit: 20 })
})

test('find: by name, serial, part and address; signs of the query language are only signs', async () => {
  await see(await source('gate controller'), {})
  expect((await find(db, 'petrel'))[0]).toMatchObject({ label: 'petrel-01', what: 'Server · H24' })
  expect((await find(db, 'fan 1 pet'))[0]).toMatchObject({ what: 'Part' })
  expect((await find(db, 'GATE'))[0]).toMatchObject({ label: 'gate controller' })
  expect(await find(db, '%')).toEqual([])
  expect(await find(db, '  ')).toEqual([])
})
