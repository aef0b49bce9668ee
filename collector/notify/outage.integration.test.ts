import { randomBytes } from 'node:crypto'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Findings } from '#core/gear'
import { takeAlert } from '#db/alerts'
import { keptValues, type Placement, storeFindings } from '#db/gear'
import type { Db } from '#db/platform'
import { ensurePartitions } from '#db/readings'
import { insertRoom, placeOnFloor } from '#db/site'
import { insertSource } from '#db/sources'
import { tellByMail } from '#db/testing/callouts'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { freePort } from '../../bin/setup/postgres.mjs'
import { startMailSink } from '../../standins/mail/sink.ts'
import { AlertWriter } from '../judging/alertWriter.ts'
import { Causes } from '../judging/causes.ts'
import { Judgement } from '../judging/judgement.ts'
import { Notifier } from './notifier.ts'

// Mains are lost until a UPS is empty, and come back: what people are told of it, word by word.

const START = Date.now() - 10 * 60_000
let db: Db
let drop: () => Promise<void>
let sink: Awaited<ReturnType<typeof startMailSink>>
let notifier: Notifier
let judgement: Judgement
let causes: Causes
let sourceId = 0
let placement: Placement | null = null
let second = 0

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  await ensurePartitions(db, START, Date.now())
  const port = await freePort()
  sink = await startMailSink(port)
  await tellByMail(db, { port, mostAMinute: 1000 })
  notifier = new Notifier(randomBytes(32), 0)
  judgement = new Judgement(db, new AlertWriter(db, notifier))
  causes = new Causes(db, notifier)
  sourceId = await insertSource(db, {
    name: 'harbour-A card',
    protocol: 'snmp',
    address: '127.0.0.1',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
})
afterAll(async () => {
  await sink.close()
  await drop()
})

interface Ups {
  /** RFC 1628 upsOutputSource: none(2), normal(3), battery(5). */
  readonly output: number
  readonly minutes: number
  readonly charge: number
  /** upsBatteryStatus: normal(2), low(3), depleted(4). */
  readonly battery: number
}
function found({ output, minutes, charge, battery }: Ups): Findings {
  const reading = (measure: Findings['readings'][number]['measure'], value: number) => ({
    gear: 'ups',
    part: null,
    measure,
    value,
  })
  return {
    gear: [{ key: 'ups', kind: 'ups', name: 'harbour-A', identities: [], facts: {}, parts: [] }],
    links: [],
    readings: [
      reading('ups.output.source', output),
      reading('ups.battery.minutes_left', minutes),
      reading('hw.battery.charge', charge),
      reading('ups.battery.status', battery),
    ],
  }
}
/** Some readings of one state in a row, as many as any rule waits for. */
async function isRead(ups: Ups, times = 4): Promise<void> {
  for (let time = 0; time < times; time += 1) {
    second += 10
    const findings = found(ups)
    const taken = { sourceId, atMs: START + second * 1000, heardAtMs: 0, durationMs: null, findings }
    const result = await storeFindings(db, taken, placement)
    placement = result.placement
    await judgement.judgeMoment({
      taken,
      seriesIds: placement.layout.seriesIds,
      values: keptValues(placement, findings),
    })
    await causes.look(START + second * 1000)
  }
}
let read = 0
/** What goes out now, since it was asked last. */
async function told(): Promise<string[]> {
  const waiting = await db
    .selectFrom('message')
    .select('id')
    .where('sentAt', 'is', null)
    .where('skipped', 'is', null)
    .where('dueAt', '<=', new Date())
    .orderBy('createdAt')
    .execute()
  for (const { id } of waiting) await notifier.send(db, id)
  const fresh = sink.mails.slice(read).map(({ subject }) => subject.replaceAll(/[\u00a0\u202f]/g, ' '))
  read = sink.mails.length
  expect(fresh.filter((subject) => !subject.endsWith(' (Breakwater Hall)'))).toEqual([])
  return fresh.map((subject) =>
    subject
      .replace(/^\[.*?\] /, '')
      .replace(' (Breakwater Hall)', '')
      .replace(/^(Still open after) [^:]+/, '$1'),
  )
}

async function standsOnFloor(name: string, room: string): Promise<void> {
  const { id } = await db.selectFrom('gear').select('id').where('name', '=', name).executeTakeFirstOrThrow()
  const size = { widthMm: 8000, depthMm: 6000, tileMm: 600 }
  const roomId = await insertRoom(db, { name: room, building: null, ...size })
  const box = { xMm: 600, yMm: 600, widthMm: 800, depthMm: 1000 }
  await placeOnFloor(db, { gearId: id, roomId, ...box, turn: 180 })
}

const MAINS = { output: 3, minutes: 55, charge: 1, battery: 2 }

test('each word on an outage has the numbers of the moment it leaves; its end is told, and nothing then as new', async () => {
  await isRead(MAINS)
  await standsOnFloor('harbour-A', 'Breakwater Hall')
  await isRead({ output: 5, minutes: 54, charge: 0.98, battery: 2 })
  expect(await told()).toEqual([
    expect.stringMatching(/^(New|Still open after): UPS harbour-A on battery, 54 min left$/),
  ])
  await isRead({ output: 5, minutes: 14, charge: 0.3, battery: 2 })
  // It has gone on before the message leaves.
  await isRead({ output: 5, minutes: 12, charge: 0.27, battery: 2 }, 1)
  expect(await told()).toContain('Worse: UPS harbour-A has 12 min left')
  await isRead({ output: 5, minutes: 3, charge: 0.07, battery: 3 })
  const low = await told()
  expect(low).toContain('Worse: UPS harbour-A: battery low, 3 min left')
  expect(low.every((subject) => subject.startsWith('Worse: '))).toBe(true)
  await isRead({ output: 2, minutes: 0, charge: 0, battery: 4 })
  const off = await told()
  expect(off).toContain('Worse: UPS harbour-A gives no power')
  expect(off.filter((subject) => /^(New|Still)/.test(subject))).toEqual([])

  await isRead({ output: 3, minutes: 1, charge: 0.03, battery: 3 })
  const back = await told()
  expect(back.filter((subject) => !subject.startsWith('Cleared: '))).toEqual([])
  expect(
    back.filter((subject) => subject.includes('normal') || subject.includes('harbour-A on')),
  ).toHaveLength(1)
  expect(sink.mails.length, 'no more than one word for each step of it').toBeLessThanOrEqual(8)
  // Should the battery stay empty, that is told after half an hour, and not as new.
  const later = await db
    .selectFrom('message')
    .select(['dueAt', 'event'])
    .where('sentAt', 'is', null)
    .where('skipped', 'is', null)
    .execute()
  for (const { dueAt } of later) expect(dueAt.getTime()).toBeGreaterThan(Date.now() + 25 * 60_000)
})

test('who takes one sign of a fault has all of its row: what is open of the same part, and what follows', async () => {
  await isRead(MAINS, 8)
  await isRead({ output: 5, minutes: 54, charge: 0.98, battery: 2 }, 8)
  await isRead({ output: 5, minutes: 3, charge: 0.07, battery: 3 })
  const open = await db
    .selectFrom('alert')
    .select(['id', 'measure', 'causeId'])
    .where('clearedAt', 'is', null)
    .execute()
  const lead = open.find(({ measure }) => measure === 'ups.output.source')!
  expect(open.filter(({ causeId }) => causeId === lead.id).length).toBeGreaterThanOrEqual(2)
  expect(await takeAlert(db, lead.id, 'Bo', new Date())).toEqual({ kind: 'taken' })
  const after = await db.selectFrom('alert').select(['takenBy']).where('clearedAt', 'is', null).execute()
  expect(after.map(({ takenBy }) => takenBy)).toEqual(after.map(() => 'Bo'))
})

test('what ended while its message waited for the mail server is told once, as over', async () => {
  await isRead(MAINS, 8)
  await told()
  await db.deleteFrom('message').execute()
  await isRead({ output: 5, minutes: 54, charge: 0.98, battery: 2 })
  // The server was away when it was tried.
  await db
    .updateTable('message')
    .set({ attempts: 3, triedAt: new Date() })
    .where('event', '=', 'opened')
    .execute()
  await isRead(MAINS, 8)
  expect(await told()).toEqual(['Already over: UPS harbour-A on battery, 54 min left'])
  // It comes and goes by now: its end would be told when it has stayed away.
  await db.updateTable('message').set({ dueAt: new Date() }).where('event', '=', 'cleared').execute()
  expect(await told()).toEqual([])
  const ends = await db.selectFrom('message').select('skipped').where('event', '=', 'cleared').execute()
  expect(ends).toEqual([{ skipped: 'told already: its beginning left late, as over' }])
})
