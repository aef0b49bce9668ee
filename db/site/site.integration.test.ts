import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest'
import { linksSeenFrom } from '#core/links'
import type { FarLinkFinding, Findings, GearFinding } from '#core/gear'
import { changeSentence } from '#core/gear'
import { listGearChanges } from '../gear/changes.ts'
import type { Db } from '../platform/connect.ts'
import { storeFindings } from '../gear/findings.ts'
import { listGear, listParts, listSeriesBeside, updateGear } from '../gear/gear.ts'
import { insertGroup, listGroups, updateGroup } from '../gear/groups.ts'
import { deleteOwnField, insertOwnField, writeOwn } from '../gear/inventory.ts'
import { drawLink, eraseLink, listAllLinks, linksByGear } from '../links/links.ts'
import {
  insertRack,
  insertRoom,
  listFloorPlaces,
  listStanding,
  listTakenUnits,
  placeGearInRack,
  placeOnFloor,
  takeOutOfRack,
} from './places.ts'
import { ensurePartitions } from '../readings/index.ts'
import { insertSource } from '../sources/sources.ts'
import { freshDatabase } from '../testing/database.ts'

const NOW = Date.UTC(2026, 10, 26, 12)
let db: Db
let drop: () => Promise<void>

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, NOW, NOW)
})
afterAll(() => drop())
beforeEach(async () => {
  await db.deleteFrom('source').execute()
  await db.deleteFrom('gear').execute()
  await db.deleteFrom('rack').execute()
  await db.deleteFrom('room').execute()
})

const source = (name: string): Promise<number> =>
  insertSource(db, {
    name,
    protocol: 'snmp',
    address: 'a',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
const gear = (name: string, kind: GearFinding['kind'], rest: Partial<GearFinding> = {}): GearFinding => ({
  key: name,
  kind,
  name,
  identities: [{ kind: 'serial', value: `S-${name}` }],
  facts: {},
  parts: [],
  ...rest,
})
let atMs = NOW
const see = (sourceId: number, found: Partial<Findings>) => {
  atMs += 1000
  const findings = { gear: [], links: [], readings: [], ...found }
  return storeFindings(db, { sourceId, atMs, findings }, null)
}
const port = (name: string) => ({ key: `port ${name}`, kind: 'port' as const, name, facts: {} })
const wire = (far: Partial<FarLinkFinding['far']>): FarLinkFinding => ({
  kind: 'wired-to',
  gear: 'reef',
  part: 'port xe-1',
  isFrom: false,
  far: { identities: [], name: null, part: null, ...far },
})
const links = async (): Promise<string[]> => {
  const names = new Map((await listGear(db)).map(({ id, name }) => [id, name]))
  return (await listAllLinks(db)).map(
    ({ kind, fromGearId, toGearId, fromPart, toPart }) =>
      `${names.get(fromGearId)}${fromPart === null ? '' : ` ${fromPart}`} ${kind} ${names.get(toGearId)}${toPart === null ? '' : ` ${toPart}`}`,
  )
}

describe('links', () => {
  const mac = { kind: 'mac' as const, value: '02:6b:00:00:07:00' }
  test('a neighbour that another source sees later is joined when it comes, by its identity', async () => {
    const [reef, petrel] = [await source('reef'), await source('petrel')]
    await see(reef, {
      gear: [gear('reef', 'switch', { parts: [port('xe-1')] })],
      farLinks: [wire({ identities: [mac], name: 'another name', part: 'nic 0' })],
    })
    expect(await links()).toEqual([])
    await see(petrel, { gear: [gear('petrel', 'server', { identities: [mac], parts: [port('nic 0')] })] })
    expect(await links()).toEqual(['petrel nic 0 wired-to reef xe-1'])
  })
  test('by its name only where one gear alone is called so', async () => {
    const [reef, other] = [await source('reef'), await source('other')]
    await see(other, {
      gear: [gear('camera', 'camera'), gear('twin', 'camera'), gear('twin 2', 'camera', { name: 'twin' })],
    })
    await see(reef, {
      gear: [gear('reef', 'switch', { parts: [port('xe-1')] })],
      farLinks: [wire({ name: 'CAMERA' }), wire({ name: 'twin' })],
    })
    expect(await links()).toEqual(['camera wired-to reef xe-1'])
  })
  test('what a source tells of no longer goes; what a person drew stays, and only a person erases it', async () => {
    const reef = await source('reef')
    const two = [gear('a', 'server'), gear('b', 'pdu'), gear('c', 'pdu')]
    await see(reef, { gear: two, links: [{ kind: 'fed-by', from: 'a', to: 'b' }] })
    const [a, , c] = await listGear(db)
    expect(await drawLink(db, { kind: 'fed-by', fromGearId: a!.id, toGearId: c!.id }, 'Asta')).toBe(true)
    expect(await drawLink(db, { kind: 'fed-by', fromGearId: a!.id, toGearId: c!.id }, 'Asta')).toBe(false)
    await see(reef, { gear: two, links: [{ kind: 'fed-by', from: 'a', to: 'c' }] })
    expect(await links()).toEqual(['a fed-by c'])
    const drawn = linksSeenFrom(a!.id, (await linksByGear(db)).get(a!.id) ?? []).find(
      ({ who }) => who === 'Asta',
    )
    await see(reef, { gear: two, links: [] })
    const [left] = await listAllLinks(db)
    expect(left).toMatchObject({ who: 'Asta', source: null })
    expect(await eraseLink(db, (drawn ?? left!).id)).toBe(true)
    expect(await links()).toEqual([])
  })
  test('a machine that moves hangs on its new host, and on that alone', async () => {
    const sender = await source('sender')
    const host = (name: string): FarLinkFinding => ({
      kind: 'hosts',
      gear: 'm',
      part: null,
      isFrom: false,
      far: { identities: [{ kind: 'serial', value: `S-${name}` }], name: null, part: null },
    })
    const all = [gear('m', 'machine'), gear('h1', 'server'), gear('h2', 'server')]
    await see(sender, { gear: all, farLinks: [host('h1')] })
    expect(await links()).toEqual(['h1 hosts m'])
    await see(sender, { gear: all, farLinks: [host('h2')] })
    expect(await links()).toEqual(['h2 hosts m'])
  })
})

describe('what has changed of a gear', () => {
  const drive = (serial: string) => ({
    key: 'drive 0',
    kind: 'drive' as const,
    name: 'd0',
    facts: { model: 'Q4', serial },
  })
  const said = async (): Promise<string[]> =>
    (await listGearChanges(db, { limit: 20 })).map(
      (change) => `${changeSentence(change)} (${change.who ?? 'by itself'})`,
    )
  test('a drive replaced, firmware changed, renamed, moved: written down once each, the newest first', async () => {
    const petrel = await source('petrel')
    const found = (serial: string, firmware: string) => [
      gear('petrel', 'server', { facts: { firmware }, parts: [drive(serial)] }),
    ]
    await see(petrel, { gear: found('A', '1') })
    expect(await said()).toEqual([])
    await see(petrel, { gear: found('B', '1') })
    await see(petrel, { gear: found('B', '2') })
    await see(petrel, { gear: found('B', '2') })
    const { id } = (await listGear(db))[0]!
    await updateGear(db, id, { name: 'petrel-1', tags: [] }, 'Asta')
    const roomId = await insertRoom(db, { name: 'Hall' })
    const rackId = await insertRack(db, { roomId, name: 'B01', heightUnits: 42 })
    await placeGearInRack(db, id, { rackId, unit: 4, heightUnits: 2 }, 'Asta')
    await takeOutOfRack(db, id, 'Bo')
    expect(await said()).toEqual([
      'Taken out of Hall · B01 · U04–05, into the stock (Bo)',
      'Placed: Hall · B01 · U04–05 (Asta)',
      'Called petrel-1; before, petrel (Asta)',
      'Firmware 2; before, 1 (by itself)',
      'd0 replaced: Q4 A by Q4 B (by itself)',
    ])
  })
  test('a part that only another source tells of is not said to be gone', async () => {
    const [box, host] = [await source('box'), await source('host')]
    await see(box, { gear: [gear('petrel', 'server', { parts: [drive('A')] })] })
    await see(host, {
      gear: [
        gear('petrel', 'server', { key: 'host', parts: [{ ...drive('X'), key: 'fan 0', name: 'fan' }] }),
      ],
    })
    await see(host, {
      gear: [
        gear('petrel', 'server', { key: 'host', parts: [{ ...drive('Y'), key: 'fan 1', name: 'fan 1' }] }),
      ],
    })
    expect((await said()).sort()).toEqual(['fan 1 came: Q4 Y (by itself)', 'fan went: Q4 X (by itself)'])
  })
})

describe('places', () => {
  test('front and rear of a unit are two; a strip takes none; the database itself keeps watch', async () => {
    const all = await source('all')
    await see(all, { gear: ['a', 'b', 'c', 'd'].map((name) => gear(name, 'server')) })
    const [a, b, c, d] = (await listGear(db)).map(({ id }) => id)
    const roomId = await insertRoom(db, { name: 'Hall' })
    const rackId = await insertRack(db, { roomId, name: 'B01', heightUnits: 42 })
    const place = (id: number, face: 'front' | 'rear' | 'both' | 'left') =>
      placeGearInRack(db, id, { rackId, unit: 10, heightUnits: 2, face })
    expect((await place(a!, 'front')).kind).toBe('placed')
    expect((await place(b!, 'rear')).kind).toBe('placed')
    expect((await place(c!, 'left')).kind).toBe('placed')
    expect(await place(d!, 'both')).toMatchObject({ kind: 'occupied', by: [{ name: 'a' }, { name: 'b' }] })
    await expect(
      db
        .updateTable('gear')
        .set({ rackId, unit: 11, heightUnits: 1, face: 'both' })
        .where('id', '=', d!)
        .execute(),
    ).rejects.toThrow(/gear_units_do_not_overlap/)
    await placeGearInRack(db, d!, { rackId, unit: 20, heightUnits: 1, face: 'both' })
    expect(await listTakenUnits(db, [b!]), 'a strip takes none').toEqual(new Map([[rackId, [20, 1, 10, 2]]]))
    expect((await listTakenUnits(db, [])).get(rackId), 'in pairs').toEqual([20, 1, 10, 2, 10, 2])
    expect((await listStanding(db, [b!, c!])).map(({ name }) => name)).toEqual(['b', 'c'])
  })
  test('from a rack to the floor and back is one place at a time', async () => {
    const all = await source('all')
    await see(all, { gear: [gear('ups', 'ups')] })
    const { id } = (await listGear(db))[0]!
    const roomId = await insertRoom(db, { name: 'Hall', building: 'Light station' })
    const rackId = await insertRack(db, { roomId, name: 'B01', heightUnits: 42 })
    await placeGearInRack(db, id, { rackId, unit: 1, heightUnits: 3 })
    await placeOnFloor(db, { gearId: id, roomId, xMm: 100, yMm: 200, widthMm: 600, depthMm: 1000, turn: 90 })
    expect(await listGear(db)).toMatchObject([{ rackId: null, roomName: 'Hall', floorRoomId: roomId }])
    await placeGearInRack(db, id, { rackId, unit: 1, heightUnits: 3 })
    expect(await listFloorPlaces(db)).toEqual([])
  })
})

test('a group keeps its members; own fields go with what stands in them', async () => {
  const all = await source('all')
  await see(all, { gear: [gear('a', 'server'), gear('b', 'server')] })
  const [a, b] = (await listGear(db)).map(({ id }) => id)
  const form = { name: 'two', note: '', rule: 'all', least: 1, unknown: 'open', tag: null } as const
  const id = await insertGroup(db, { ...form, memberIds: [a!, b!, a!] })
  await updateGroup(db, id, { ...form, rule: 'any', memberIds: [b!] })
  expect(await listGroups(db)).toMatchObject([{ name: 'two', rule: 'any', memberIds: [b] }])
  await db.deleteFrom('gear').where('id', '=', b!).execute()
  expect(await listGroups(db)).toMatchObject([{ memberIds: [] }])

  await insertOwnField(db, 'Asset', 'text')
  await writeOwn(db, a!, { warrantyEnds: '2027-03-31', own: { Asset: 'KS-1' } })
  expect(await listGear(db)).toMatchObject([{ warrantyEnds: '2027-03-31', own: { Asset: 'KS-1' } }])
  const field = await db.selectFrom('ownField').select('id').executeTakeFirstOrThrow()
  await deleteOwnField(db, field.id)
  expect(await listGear(db)).toMatchObject([{ warrantyEnds: '2027-03-31', own: {} }])
})

test('beside a place stand the series of that part or of the gear as a whole, and of one measure all', async () => {
  const all = await source('all')
  const battery = { key: 'battery', kind: 'battery' as const, name: 'battery', facts: {} }
  await see(all, { gear: [gear('ups', 'ups', { parts: [port('a'), battery] }), gear('other', 'ups')] })
  const [other, ups] = (await listGear(db)).map(({ id }) => id)
  const parts = new Map((await listParts(db, ups!)).map(({ name, id }) => [name, id]))
  const of = async (gearId: number, partId: number | null, measure: 'hw.temperature' | 'hw.power') =>
    (
      await db
        .insertInto('series')
        .values({ sourceId: all, gearId, partId, measure })
        .returning('id')
        .executeTakeFirstOrThrow()
    ).id
  const whole = await of(ups!, null, 'hw.temperature')
  const onPort = await of(ups!, parts.get('a')!, 'hw.temperature')
  const onBattery = await of(ups!, parts.get('battery')!, 'hw.power')
  await of(other!, null, 'hw.power')
  const beside = async (...places: { gearId: number | null; partId: number | null }[]) =>
    (await listSeriesBeside(db, places, 'hw.power')).map(({ id }) => id)
  const atPort = { gearId: ups!, partId: parts.get('a')! }
  expect(await beside({ gearId: ups!, partId: null })).toEqual([whole, onBattery])
  expect(await beside(atPort, atPort), 'each once').toEqual([onPort, onBattery])
  expect(await beside({ gearId: null, partId: null }), 'an alert of no gear').toEqual([])
})
