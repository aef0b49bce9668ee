import { afterAll, beforeAll, expect, test } from 'vitest'
import { storeFindings } from '../gear/findings.ts'
import { listGear } from '../gear/gear.ts'
import type { Db } from '../platform/connect.ts'
import { ensurePartitions } from '../readings/index.ts'
import { insertRack, insertRoom, placeGearInRack } from '../site/places.ts'
import { insertSource } from '../sources/sources.ts'
import { freshDatabase } from '../testing/database.ts'
import { serverFindings } from '../testing/findings.ts'
import { alertsAround, clearedSince, countAlerts, openAlert } from './index.ts'

const NOW = Date.now()
let db: Db
let drop: () => Promise<void>
/** By name. */
const gear = new Map<string, number>()
const sources = new Map<string, number>()

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, NOW, NOW)
  for (const name of ['here', 'beside', 'elsewhere']) {
    const sourceId = await insertSource(db, {
      name,
      protocol: 'redfish',
      address: name,
      settings: {},
      intervalSeconds: 60,
      credentialId: null,
      token: null,
    })
    sources.set(name, sourceId)
    const findings = serverFindings({ name, key: name, identities: [{ kind: 'serial', value: name }] })
    await storeFindings(db, { sourceId, atMs: NOW, findings }, null)
  }
  for (const { id, name } of await listGear(db)) gear.set(name, id)
  const room = (name: string) => insertRoom(db, { name, building: '', widthMm: 9000, depthMm: 9000 })
  const rack = (roomId: number) => insertRack(db, { roomId, name: 'R', heightUnits: 42, xMm: 0, yMm: 0 })
  const [hall, cellar] = [await rack(await room('Hall')), await rack(await room('Cellar'))]
  const place = (name: string, rackId: number, unit: number) =>
    placeGearInRack(db, gear.get(name)!, { rackId, unit, heightUnits: 1 })
  await place('here', hall, 1)
  await place('beside', hall, 2)
  await place('elsewhere', cellar, 1)
})
afterAll(() => drop())

async function open(title: string, about: { gear?: string; source?: string }, minutesAgo: number) {
  const at = new Date(NOW - minutesAgo * 60_000)
  return (await openAlert(db, {
    ruleKey: title,
    subject: title,
    seriesId: null,
    sourceId: about.source === undefined ? null : sources.get(about.source)!,
    gearId: about.gear === undefined ? null : gear.get(about.gear)!,
    partId: null,
    measure: null,
    severity: 'warning',
    title,
    reason: 'it is so',
    sinceAt: at,
    openedAt: at,
  }))!
}

test('around that time is what concerns the same gear, its source or its room, and nothing else', async () => {
  const id = await open('the one', { gear: 'here' }, 10)
  await open('same gear', { gear: 'here' }, 12)
  await open('its source', { source: 'here' }, 11)
  await open('same room', { gear: 'beside' }, 9)
  await open('another room', { gear: 'elsewhere' }, 10)
  await open('another source', { source: 'elsewhere' }, 10)
  await open('long before', { gear: 'here' }, 50)
  const titles = async (of: number) => (await alertsAround(db, of, 5 * 60_000, 12)).map(({ title }) => title)
  expect((await titles(id)).sort()).toEqual(['its source', 'same gear', 'same room'])
  const silent = await open('silence', { source: 'elsewhere' }, 10)
  expect((await titles(silent)).sort()).toEqual(['another room', 'another source'])
})

test('what follows from an open alert is counted beside those that stand by themselves', async () => {
  const counts = async () => {
    const { open, following, critical } = await countAlerts(db, NOW - 3_600_000)
    return { open, following, critical }
  }
  const before = await counts()
  const cause = await open('the cause', { gear: 'here' }, 2)
  const follower = await open('what follows', { gear: 'beside' }, 1)
  await db
    .updateTable('alert')
    .set({ causeId: cause, severity: 'critical' })
    .where('id', '=', follower)
    .execute()
  expect(await counts()).toEqual({ ...before, open: before.open + 1, following: before.following + 1 })
  await db
    .updateTable('alert')
    .set({ clearedAt: new Date(NOW) })
    .where('id', '=', cause)
    .execute()
  expect(await counts()).toEqual({ ...before, open: before.open + 1, critical: before.critical + 1 })
  expect(await clearedSince(db, [cause, follower], new Date(NOW - 1000))).toEqual(new Set([cause]))
  expect(await clearedSince(db, [cause, follower], new Date(NOW + 1000))).toEqual(new Set())
})
