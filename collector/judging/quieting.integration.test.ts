import { randomBytes } from 'node:crypto'
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest'
import type { Findings } from '#core/gear'
import type { Db } from '#db/platform'
import { keptValues, type Placement, storeFindings } from '#db/gear'
import { acceptAlert, insertQuiet, listQuiets } from '#db/alerts'
import { drawLink } from '#db/links'
import { ensurePartitions } from '#db/readings'
import { insertSource } from '#db/sources'
import { serverFindings } from '#db/testing/findings'
import { tellByMail } from '#db/testing/callouts'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { Judgement } from './judgement.ts'
import { Quieting } from './quieting.ts'
import { Notifier } from '../notify/notifier.ts'
import { AlertWriter } from './alertWriter.ts'

const NOW = Date.now()
const MINUTE = 60_000
let db: Db
let drop: () => Promise<void>
let judgement: Judgement
let quieting: Quieting
let sourceId = 0
let count = 0
let placement: Placement | null = null

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  await ensurePartitions(db, NOW - 86_400_000, NOW + 86_400_000)
  await tellByMail(db, { port: 25 })
})
afterAll(() => drop())
beforeEach(async () => {
  count += 1
  placement = null
  const notifier = new Notifier(randomBytes(32))
  judgement = new Judgement(db, new AlertWriter(db, notifier))
  quieting = new Quieting(db, notifier)
  sourceId = await insertSource(db, {
    name: `source ${count}`,
    protocol: 'redfish',
    address: 'https://127.0.0.1',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
})

/** A server whose fan says of itself how it is. */
async function health(minute: number, state: 0 | 1 | 2): Promise<void> {
  const found = serverFindings({
    name: `auk-${count}`,
    identities: [{ kind: 'serial', value: `Q-${count}` }],
  })
  const findings: Findings = {
    ...found,
    readings: [...found.readings, { gear: 'server', part: 'fan 1', measure: 'hw.status', value: state }],
  }
  const taken = { sourceId, atMs: NOW + minute * MINUTE, heardAtMs: 0, durationMs: null, findings }
  placement = (await storeFindings(db, taken, placement)).placement
  await judgement.judgeMoment({
    taken,
    seriesIds: placement.layout.seriesIds,
    values: keptValues(placement, findings),
  })
}
/** The same server says whether it is on. */
async function power(minute: number, state: 0 | 1): Promise<void> {
  const found = serverFindings({
    name: `auk-${count}`,
    identities: [{ kind: 'serial', value: `Q-${count}` }],
  })
  const readings = [{ gear: 'server', part: null, measure: 'hw.power.state', value: state } as const]
  const findings: Findings = { ...found, readings }
  const taken = { sourceId, atMs: NOW + minute * MINUTE, heardAtMs: 0, durationMs: null, findings }
  const stored = (await storeFindings(db, taken, null)).placement
  await judgement.judgeMoment({
    taken,
    seriesIds: stored.layout.seriesIds,
    values: keptValues(stored, findings),
  })
}
const gearId = async (): Promise<number> =>
  (await db.selectFrom('gear').select('id').where('name', '=', `auk-${count}`).executeTakeFirstOrThrow()).id
const alert = async () =>
  (await db
    .selectFrom('alert')
    .innerJoin('gear', 'gear.id', 'alert.gearId')
    .select(['alert.id', 'alert.quietId', 'alert.clearedAt', 'alert.severity', 'alert.flaps'])
    .where('gear.name', '=', `auk-${count}`)
    .orderBy('alert.id', 'desc')
    .executeTakeFirst())!
const told = async () =>
  (
    await db
      .selectFrom('message')
      .innerJoin('alert', 'alert.id', 'message.alertId')
      .innerJoin('gear', 'gear.id', 'alert.gearId')
      .select('message.event')
      .where('gear.name', '=', `auk-${count}`)
      .where('skipped', 'is', null)
      .orderBy('message.createdAt')
      .execute()
  ).map(({ event }) => event)
const events = async (id: number) =>
  (await db.selectFrom('alertEvent').select('what').where('alertId', '=', id).orderBy('id').execute()).map(
    ({ what }) => what,
  )

test('what is quiet is recorded and not told; when the quiet is over and it still holds, it is', async () => {
  await health(0, 0)
  const id = await gearId()
  await insertQuiet(db, {
    scope: { where: { kind: 'gear', id }, measure: null, ruleKey: null },
    reason: 'fans are changed',
    who: 'Bo',
    fromMs: NOW,
    toMs: NOW + 60 * MINUTE,
    repeats: null,
  })
  await health(1, 2)
  expect((await alert()).quietId).not.toBeNull()
  expect(await told()).toEqual([])
  await quieting.look(NOW + 50 * MINUTE)
  expect(await events((await alert()).id), 'that it ends is announced').toContain('quiet ends')
  await quieting.look(NOW + 61 * MINUTE)
  expect((await alert()).quietId).toBeNull()
  expect(await told()).toEqual(['opened'])
  expect(
    (await listQuiets(db, NOW)).find(({ who, reason }) => who === 'Bo' && reason === 'fans are changed'),
  ).toMatchObject({
    endedWhy: 'Its time is over.',
  })
})

test('a recurrence that cannot be evaluated keeps nothing quiet, hurts nobody else, and says so', async () => {
  await health(0, 0)
  const scope = { where: { kind: 'gear', id: await gearId() }, measure: 'hw.status', ruleKey: null } as const
  const times = { fromMs: NOW, toMs: NOW + 60 * MINUTE, repeats: null }
  const good = await insertQuiet(db, { scope, reason: 'fans are changed', who: 'Bo', ...times })
  // As a form of before, or another program, may have written it.
  const bad = await insertQuiet(db, { scope, reason: 'never comes', who: 'Bo', ...times })
  for (const repeats of ['FREQ=WEEKLY;BYDAY=XX', 'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30']) {
    await db.updateTable('quiet').set({ repeats }).where('id', '=', bad).execute()
    await quieting.look(NOW + MINUTE)
    const quiets = await listQuiets(db, NOW + MINUTE)
    expect(quiets.find(({ id }) => id === bad)).toMatchObject({
      isBroken: true,
      holds: false,
      endedAtMs: null,
    })
    expect(quiets.find(({ id }) => id === good)).toMatchObject({ isBroken: false, holds: true })
  }
  await health(2, 2)
  expect((await alert()).quietId).toBe(good)
})

test('an alert that is open already becomes quiet, and goes as quietly as it came', async () => {
  await health(0, 2)
  await db.updateTable('message').set({ skipped: 'not here' }).execute()
  await insertQuiet(db, {
    scope: { where: { kind: 'gear', id: await gearId() }, measure: 'hw.status', ruleKey: null },
    reason: 'known',
    who: 'Bo',
    fromMs: NOW,
    toMs: null,
    repeats: null,
  })
  await quieting.look(NOW + MINUTE)
  expect((await alert()).quietId).not.toBeNull()
  await health(2, 0)
  expect((await alert()).clearedAt).not.toBeNull()
  expect(await told()).toEqual([])
})

test('what is accepted stays quiet for as long as it is the same, and is back when anything about it changes', async () => {
  await health(0, 2)
  const first = await alert()
  await db.updateTable('message').set({ skipped: 'not here' }).execute()
  const by = { who: 'Asta', reason: 'no second cord', at: new Date(NOW), state: 2 }
  expect(await acceptAlert(db, first.id, by)).toEqual({ kind: 'accepted' })
  await health(1, 2)
  await quieting.look(NOW + MINUTE)
  expect((await alert()).quietId).not.toBeNull()
  await health(2, 1)
  await quieting.look(NOW + 2 * MINUTE)
  expect(await alert(), 'milder is another state, too').toMatchObject({ quietId: null, severity: 'warning' })
  expect(await told()).toEqual(['opened'])
  expect(await acceptAlert(db, 999_999, by)).toEqual({ kind: 'unknown' })
})

test('accepted and then gone: should it come again, that is news', async () => {
  await health(0, 2)
  await acceptAlert(db, (await alert()).id, { who: 'Asta', reason: 'known', at: new Date(NOW), state: 2 })
  await health(1, 0)
  await quieting.look(NOW + MINUTE)
  await health(15, 2)
  expect((await alert()).quietId).toBeNull()
})

test('what comes and goes is one alert with a count, and not told each time', async () => {
  for (let turn = 0; turn < 6; turn += 1) {
    await health(2 * turn, 2)
    // Each stayed long enough to be told.
    await db
      .updateTable('message')
      .set({ dueAt: new Date(Date.now() - 60_000) })
      .where('event', '=', 'opened')
      .execute()
    await health(2 * turn + 1, 0)
  }
  const rows = await db
    .selectFrom('alert')
    .innerJoin('gear', 'gear.id', 'alert.gearId')
    .select(['alert.flaps'])
    .where('gear.name', '=', `auk-${count}`)
    .orderBy('alert.id')
    .execute()
  expect(rows.map(({ flaps }) => flaps)).toEqual([0, 6])
  // Twice it was told to have gone; since it flaps, that it stays away has to be waited for.
  expect((await told()).filter((event) => event === 'opened')).toHaveLength(3)
})

test('a rack that is quiet leaves the UPS in it loud, which feeds another rack, until somebody names it', async () => {
  await health(0, 0)
  const room = await db
    .insertInto('room')
    .values({ name: `room ${count}` })
    .returning('id')
    .executeTakeFirstOrThrow()
  const rackOf = async (name: string): Promise<number> =>
    (
      await db
        .insertInto('rack')
        .values({ name, roomId: room.id, heightUnits: 42 })
        .returning('id')
        .executeTakeFirstOrThrow()
    ).id
  const [here, there] = [await rackOf(`Q${count}1`), await rackOf(`Q${count}2`)]
  const upsId = await gearId()
  const other = await db
    .insertInto('gear')
    .values({
      name: `strip-${count}`,
      kind: 'pdu',
      facts: '{}',
      face: 'both',
      rackId: there,
      unit: 20,
      heightUnits: 2,
    })
    .returning('id')
    .executeTakeFirstOrThrow()
  await db
    .updateTable('gear')
    .set({ kind: 'ups', rackId: here, unit: 1, heightUnits: 4, face: 'both' })
    .where('id', '=', upsId)
    .execute()
  await drawLink(db, { kind: 'fed-by', fromGearId: other.id, toGearId: upsId }, 'Bo')
  const quiet = {
    scope: { where: { kind: 'rack', id: here }, measure: null, ruleKey: null },
    reason: 'fans are changed',
    who: 'Bo',
    fromMs: NOW,
    toMs: NOW + 60 * MINUTE,
    repeats: null,
  } as const
  await insertQuiet(db, quiet)
  await health(1, 2)
  expect((await alert()).quietId).toBeNull()
  expect(await told()).toEqual(['opened'])
  const named = await insertQuiet(db, { ...quiet, scope: { ...quiet.scope, named: [upsId] } })
  await quieting.look(NOW + 2 * MINUTE)
  expect((await alert()).quietId).toBe(named)
})

test('what is expected to be off is off to nobody’s alarm; whatever else is wrong with it is told', async () => {
  await power(0, 1)
  await insertQuiet(db, {
    scope: { where: { kind: 'gear', id: await gearId() }, measure: null, ruleKey: null, isOff: true },
    reason: 'the test bench sleeps at night',
    who: 'Bo',
    fromMs: NOW,
    toMs: NOW + 600 * MINUTE,
    repeats: null,
  })
  await health(1, 2)
  expect((await alert()).quietId).toBeNull()
  expect(await told()).toEqual(['opened'])
  await power(2, 0)
  await power(3, 0)
  const off = await db
    .selectFrom('alert')
    .innerJoin('gear', 'gear.id', 'alert.gearId')
    .select(['alert.ruleKey', 'alert.quietId'])
    .where('gear.name', '=', `auk-${count}`)
    .where('alert.ruleKey', '=', 'gear-off')
    .executeTakeFirstOrThrow()
  expect(off.quietId).not.toBeNull()
  expect(await told()).toEqual(['opened'])
})
