import { randomBytes, randomUUID } from 'node:crypto'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { GearKind } from '#core/catalogue'
import { clearAlerts, type NewAlert, openAlert } from '#db/alerts'
import type { Db } from '#db/platform'
import { drawLink } from '#db/links'
import { insertSource } from '#db/sources'
import { tellByMail } from '#db/testing/callouts'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { freePort } from '../../bin/setup/postgres.mjs'
import { startMailSink } from '../../standins/mail/sink.ts'
import { Blindness } from './blindness.ts'
import { Causes } from './causes.ts'
import { Notifier } from '../notify/notifier.ts'
import { AlertWriter } from './alertWriter.ts'

const NOW = Date.now()
let db: Db
let drop: () => Promise<void>
let notifier: Notifier
let sink: Awaited<ReturnType<typeof startMailSink>>

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  const port = await freePort()
  sink = await startMailSink(port)
  await tellByMail(db, { port })
  notifier = new Notifier(randomBytes(32), 0)
})
afterAll(async () => {
  await sink.close()
  await drop()
})

const gear = async (name: string, kind: GearKind): Promise<number> =>
  (
    await db
      .insertInto('gear')
      .values({ name, kind, facts: '{}', rackId: null, unit: null, heightUnits: null })
      .returning('id')
      .executeTakeFirstOrThrow()
  ).id
async function open(gearId: number, rest: Partial<NewAlert>): Promise<number> {
  return db.transaction().execute(async (trx) => {
    const title = `trouble of ${gearId}`
    const id = await openAlert(trx, {
      ruleKey: 'r',
      seriesId: null,
      sourceId: null,
      gearId,
      partId: null,
      measure: 'net.reachable',
      subject: `gear ${gearId} ${randomUUID()}`,
      severity: 'critical',
      title,
      reason: 'It is so.',
      sinceAt: new Date(NOW),
      openedAt: new Date(NOW),
      ...rest,
    })
    await notifier.notify(trx, { alertId: id!, event: 'opened', title, reason: 'It is so.', atMs: NOW })
    return id!
  })
}
async function sendAll(): Promise<void> {
  const waiting = await db
    .selectFrom('message')
    .select('id')
    .where('sentAt', 'is', null)
    .where('skipped', 'is', null)
    .execute()
  for (const { id } of waiting) await notifier.send(db, id)
}
const causeOf = async (id: number) =>
  db
    .selectFrom('alert')
    .select(['causeId', 'causePath', 'consequence'])
    .where('id', '=', id)
    .executeTakeFirstOrThrow()

test('a UPS that feeds nothing: one message names what has no second feed; what follows is folded, and told once the cause has gone', async () => {
  const [a, b, strip, one, two] = [
    await gear('harbour-A', 'ups'),
    await gear('harbour-B', 'ups'),
    await gear('B01-A', 'pdu'),
    await gear('petrel-01', 'server'),
    await gear('petrel-02', 'server'),
  ]
  for (const [from, to] of [
    [strip, a],
    [one, strip],
    [two, strip],
    [two, b],
  ] as const)
    await drawLink(db, { kind: 'fed-by', fromGearId: from, toGearId: to }, 'Bo')
  const causes = new Causes(db, notifier)
  const ups = await open(a, { measure: 'ups.output.source', value: 2 })
  const dark = await open(one, {})
  await causes.look(NOW)
  expect(await causeOf(dark)).toMatchObject({
    causeId: ups,
    causePath: 'petrel-01 is fed by B01-A, which is fed by harbour-A',
  })
  expect((await causeOf(ups)).consequence).toBe(
    'Without a second feed: petrel-01. It explains 1 more alert, on petrel-01.',
  )
  await sendAll()
  expect(sink.mails).toHaveLength(1)
  expect(sink.mails[0]?.text).toContain('It is so. Without a second feed: petrel-01.')

  await db
    .transaction()
    .execute((trx) => clearAlerts(trx, [{ id: ups, at: new Date(NOW + 1000), reason: 'mains are back' }]))
  await causes.look(NOW + 2000)
  expect(await causeOf(dark), 'it has time to be well again').toMatchObject({ causeId: ups })
  expect(sink.mails).toHaveLength(1)
  await causes.look(NOW + 4 * 60_000)
  expect(await causeOf(dark)).toMatchObject({ causeId: null })
  await sendAll()
  expect(sink.mails.map(({ text }) => text).at(-1)).toContain('Its cause has gone, and it still holds')
})

test('what began in an outage, and is noticed as that is over, waits to be well again; should it stay, it is told', async () => {
  const [ups, strip] = [await gear('harbour-C', 'ups'), await gear('C01-A', 'pdu')]
  await drawLink(db, { kind: 'fed-by', fromGearId: strip, toGearId: ups }, 'Bo')
  const causes = new Causes(db, notifier)
  const moment = Date.now()
  const outage = await open(ups, {
    measure: 'ups.output.source',
    value: 5,
    sinceAt: new Date(moment - 600_000),
  })
  await db
    .transaction()
    .execute((trx) =>
      clearAlerts(trx, [{ id: outage, at: new Date(moment - 5000), reason: 'mains are back' }]),
    )
  const outlet = await open(strip, {
    measure: 'hw.outlet.state',
    value: 0,
    sinceAt: new Date(moment - 20_000),
  })
  await db
    .updateTable('message')
    .set({ dueAt: new Date(Date.now() + 6000) })
    .where('alertId', '=', outlet)
    .execute()
  await causes.look(moment)
  await causes.look(moment + 2000)
  const messages = await db
    .selectFrom('message')
    .select(['dueAt', 'skipped'])
    .where('alertId', '=', outlet)
    .orderBy('createdAt')
    .execute()
  expect(messages.map(({ skipped }) => skipped)).toEqual([
    'its cause has gone: told anew should it stay',
    null,
  ])
  expect(messages[1]!.dueAt.getTime()).toBeGreaterThan(Date.now() + 170_000)
  expect((await causeOf(outlet)).causeId, 'it is folded until then').toBe(outage)
  await causes.look(moment + 4 * 60_000)
  expect((await causeOf(outlet)).causeId).toBeNull()
})

test('most sources of one collector silent at once: one alert, “blind here”, never all down', async () => {
  const sources: number[] = []
  for (let index = 0; index < 6; index += 1)
    sources.push(
      await insertSource(db, {
        name: `s${index}`,
        protocol: 'redfish',
        address: 'https://127.0.0.1',
        settings: {},
        intervalSeconds: 10,
        credentialId: null,
        token: null,
      }),
    )
  await db.updateTable('source').set({ leaseHolder: 'collector-7' }).execute()
  const silent = async (sourceId: number) =>
    db.transaction().execute((trx) =>
      openAlert(trx, {
        ruleKey: 'no-data',
        seriesId: null,
        sourceId,
        gearId: null,
        partId: null,
        measure: null,
        subject: `source ${sourceId}`,
        severity: 'warning',
        title: `s${sourceId} is silent`,
        reason: '',
        sinceAt: new Date(NOW),
        openedAt: new Date(NOW),
      }),
    )
  const blindness = new Blindness(db, new AlertWriter(db, notifier))
  const causes = new Causes(db, notifier)
  const blind = () =>
    db
      .selectFrom('alert')
      .select(['id', 'title', 'clearedAt'])
      .where('ruleKey', '=', 'blind')
      .executeTakeFirst()
  for (const id of sources.slice(0, 3)) await silent(id)
  await blindness.look(NOW)
  expect(await blind()).toBeUndefined()
  await silent(sources[3]!)
  await blindness.look(NOW)
  expect((await blind())?.title).toBe('Blind here: 4 of 6 sources are not heard')
  await silent(sources[4]!)
  await causes.look(NOW)
  const folded = await db
    .selectFrom('alert')
    .select('id')
    .where('causeId', '=', (await blind())!.id)
    .execute()
  expect(folded).toHaveLength(5)
  const mine = await db.selectFrom('alert').select('id').where('ruleKey', '=', 'no-data').execute()
  for (const { id } of mine)
    await db
      .transaction()
      .execute((trx) => clearAlerts(trx, [{ id, at: new Date(NOW + 1000), reason: 'heard' }]))
  await blindness.look(NOW + 2000)
  expect((await blind())?.clearedAt).not.toBeNull()
})
