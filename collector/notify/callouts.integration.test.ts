import { sql } from 'kysely'
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest'
import type { Step } from '#core/callouts'
import { takeAlert } from '#db/alerts'
import {
  CHANNEL_FORMS,
  channelHealth,
  saveCallOut,
  saveChannel,
  saveDuty,
  savePerson,
  saveTeam,
} from '#db/callouts'
import { seal } from '#db/sources'
import { AT_ONCE, callOutOf } from '#db/testing/callouts'
import { freePort } from '../../bin/setup/postgres.mjs'
import { callOutStage, key, later, MINUTE, WHO } from '../testing/callOutStage.ts'
import { waysOf } from './channels/mail.ts'

let stage: Awaited<ReturnType<typeof callOutStage>>
beforeAll(async () => {
  stage = await callOutStage()
})
beforeEach(() => stage.clean())
afterAll(() => stage.close())

test('mail at once, a text to who is on duty when it persists, and nothing more once somebody has it', async () => {
  await saveDuty(
    stage.db,
    stage.teamId,
    { personIds: [stage.people[1]!], turnDays: 7, firstDay: '2026-01-05', handOverMinute: 480, swaps: [] },
    WHO,
  )
  await stage.make([
    stage.tell(stage.mail),
    stage.tell(stage.text, { after: later(5) }, 'duty'),
    stage.tell(stage.mail, { after: later(30) }),
  ])
  const id = await stage.open({ subject: 'a' })
  await stage.sendDue()
  expect(stage.mailsOf('a').map(({ to }) => to)).toEqual([['bo@a.example', 'dag@a.example']])
  expect(stage.mailsOf('a')[0]?.html).toContain('<h1')
  expect(stage.outside.texts).toEqual([])
  await stage.sendDue(6)
  expect(stage.outside.texts.map(({ to, text: said }) => [to, said])).toEqual([
    [
      '+475550104',
      expect.stringMatching(/^Still open after 5 min: Trouble of a, since \d\d:\d\d\. It is so\. http/),
    ],
  ])
  await takeAlert(stage.db, id, 'Bo', new Date())
  await stage.sendDue(40)
  expect(stage.mailsOf('a')).toHaveLength(1)
  expect((await stage.messages()).map(({ skipped }) => skipped)).toEqual([null, null, 'Bo has it'])
})

test('one message within the hold-off however often it comes back; that it has gone is told at the end of it', async () => {
  await stage.make([stage.tell(stage.mail)], { holdOffMs: 10 * MINUTE })
  for (let turn = 0; turn < 5; turn += 1) {
    const id = await stage.open({ subject: 'b' })
    await stage.sendDue()
    await stage.clear(id)
    await stage.sendDue()
  }
  expect(stage.mailsOf('b')).toHaveLength(1)
  const waiting = (await stage.messages()).filter(
    ({ sentAt, skipped }) => sentAt === null && skipped === null,
  )
  expect(waiting.map(({ event }) => event)).toEqual(['cleared'])
  await stage.sendDue(30)
  expect(stage.sink.mails.at(-1)?.subject).toContain('Cleared: Trouble')
  expect(stage.sink.mails.at(-1)?.messageId).toBe(`<${waiting[0]!.id}@restless-rack>`)
})

test('of a burst what goes on in a minute goes in one mail, the worst first', async () => {
  await stage.make([stage.tell(stage.mail), stage.tell(stage.text)], { mostAMinute: 3 })
  const before = { mails: stage.sink.mails.length, texts: stage.outside.texts.length }
  const ids: number[] = []
  for (const index of Array(8).keys())
    ids.push(await stage.open({ subject: `burst ${index}`, severity: index === 5 ? 'critical' : 'warning' }))
  await stage.sendDue()
  const mails = stage.sink.mails.slice(before.mails)
  expect(mails.map(({ subject }) => subject)).toEqual([
    expect.stringMatching(/Trouble of burst 5, and 7 more: 8 new; 1 is critical$/),
  ])
  const told = (await stage.messages()).filter(({ step }) => step === 0)
  expect(mails[0]!.ids).toEqual(told.map(({ id }) => id))
  expect(mails[0]!.messageId).toBe(`<${told[0]!.id}@restless-rack>`)
  for (const id of ids) expect(mails[0]!.html).toContain(`/alerts/${id}"`)
  expect(told.every(({ sentAt, answer }) => sentAt !== null && answer!.endsWith('8 messages in one'))).toBe(
    true,
  )
  // One text for each of the two of the team.
  expect(stage.outside.texts.slice(before.texts).map(({ text: said }) => said.slice(0, 24))).toEqual([
    '8 new; 1 is critical. Fi',
    '8 new; 1 is critical. Fi',
  ])
  const { rows } = await sql<{ left: string }>`select count(*) as left from graphile_worker.jobs
    join message on message.id::text = jobs.key where message.sent_at is not null and message.step = 0`.execute(
    stage.db,
  )
  expect(Number(rows[0]!.left)).toBeLessThanOrEqual(1)
})

test('a minute that is full makes the rest wait for the next, and a mail server that is away loses nothing', async () => {
  await stage.make([stage.tell(stage.mail)], { mostAMinute: 2 })
  const before = stage.sink.mails.length
  for (const subject of ['full 1', 'full 2']) {
    await stage.open({ subject })
    await stage.sendDue()
  }
  for (const subject of ['full 3', 'full 4', 'full 5']) await stage.open({ subject })
  await stage.sendDue()
  expect(stage.sink.mails.length - before).toBe(2)
  const waits = (await stage.messages()).filter(({ sentAt }) => sentAt === null)
  expect(waits.map(({ attempts, skipped }) => [attempts, skipped])).toEqual([
    [0, null],
    [0, null],
    [0, null],
  ])
  const { rows } = await sql<{ seconds: number }>`select extract(epoch from run_at - now())::float8 as seconds
    from graphile_worker.jobs where key = any(${waits.map(({ id }) => id)})`.execute(stage.db)
  expect(rows).toHaveLength(3)
  for (const { seconds } of rows) expect(Math.abs(seconds - 60)).toBeLessThan(10)
  // A minute later, the mail server being away for the first try.
  await stage.db
    .updateTable('message')
    .set({ sentAt: new Date(Date.now() - 61_000) })
    .where('sentAt', 'is not', null)
    .execute()
  const { settings } = await stage.db
    .selectFrom('channel')
    .select('settings')
    .where('id', '=', stage.mail)
    .executeTakeFirstOrThrow()
  const set = (value: unknown) =>
    stage.db
      .updateTable('channel')
      .set({ settings: JSON.stringify(value) })
      .where('id', '=', stage.mail)
      .execute()
  await set({ ...(settings as object), port: await freePort() })
  await stage.notifier.send(stage.db, waits[1]!.id)
  const tried = (await stage.messages()).filter(({ sentAt }) => sentAt === null)
  expect(tried.map(({ attempts }) => attempts)).toEqual([1, 1, 1])
  expect(stage.sink.mails.length - before).toBe(2)
  await set(settings)
  await stage.notifier.send(stage.db, waits[2]!.id)
  expect(stage.sink.mails.at(-1)?.subject).toContain('Trouble of full 3, and 2 more: 3 new')
  expect(stage.sink.mails.at(-1)?.messageId).toBe(`<${waits[0]!.id}@restless-rack>`)
  expect((await stage.messages()).every(({ sentAt }) => sentAt !== null)).toBe(true)
})

test('what goes before its step’s turn is not told by that step', async () => {
  await stage.make([stage.tell(stage.mail), stage.tell(stage.text, { after: later(5) })])
  const before = stage.outside.texts.length
  const id = await stage.open({ subject: 'c' })
  await stage.sendDue()
  await stage.clear(id)
  await stage.sendDue(10)
  expect(stage.outside.texts).toHaveLength(before)
  expect((await stage.messages()).find(({ step }) => step === 1)?.skipped).toBe(
    'it went away before its turn came',
  )
})

test('a call-out for what is critical says nothing of a warning, and hours wait or leave', async () => {
  await stage.make([stage.tell(stage.mail)], { severity: 'critical' })
  await stage.open({ subject: 'd' })
  expect(await stage.messages()).toEqual([])
  await stage.db.deleteFrom('callOut').execute()
  const today = (new Date().getUTCDay() + 6) % 7
  const hours = { days: [(today + 3) % 7], fromMinute: 0, toMinute: 60 }
  await stage.make([stage.tell(stage.mail)], { hours, outside: 'wait' })
  await saveCallOut(
    stage.db,
    null,
    callOutOf([stage.tell(stage.mail)], { name: 'Leaves', hours, outside: 'leave' }),
    WHO,
  )
  await stage.open({ subject: 'e' })
  const [waits, leaves] = (await stage.messages()).sort(
    (a, b) => Number(a.skipped !== null) - Number(b.skipped !== null),
  )
  expect(waits!.dueAt.getTime() - Date.now()).toBeGreaterThan(24 * 60 * MINUTE)
  expect(leaves!.skipped).toBe('it is outside the hours of this call-out')
})

test('a hook is signed, a gateway that refuses is tried again, and a channel that is stuck is known to be', async () => {
  await stage.make([stage.tell(stage.hook, {}, null), stage.tell(stage.text)])
  stage.outside.gatewayFaults.cause('refuse', null, Date.now())
  const id = await stage.open({ subject: 'f' })
  await stage.sendDue()
  const [signed, refused] = await stage.messages()
  expect(stage.outside.hooks.at(-1)).toMatchObject({
    id: signed!.id,
    isSigned: true,
    body: { alert: { id } },
  })
  expect(refused).toMatchObject({
    sentAt: null,
    attempts: 1,
    answer: 'not accepted: 503 the gateway is being serviced',
  })
  const health = await channelHealth(stage.db, new Date(Date.now() + 3 * MINUTE))
  expect(health.map(({ name, stuck }) => [name, stuck])).toEqual([
    ['Mail', 0],
    ['Texts', 1],
    ['Hook', 0],
  ])
  stage.outside.gatewayFaults.mend()
  const before = stage.outside.texts.length
  await stage.sendDue()
  expect(stage.outside.texts).toHaveLength(before + 2)
  expect(new Set(stage.outside.texts.slice(before).map((each) => each.id))).toEqual(new Set([refused!.id]))
  expect(JSON.stringify(await stage.messages())).not.toMatch(/gateway-token|hook-secret/)
})

test('a mail that is taken for some says who is left out; one that is refused for good is not tried again', async () => {
  const gone = (await savePerson(stage.db, null, { name: 'Gunn', email: 'gone@a.example', phone: '' }, WHO))!
  const part = (await saveTeam(
    stage.db,
    null,
    { name: 'in part', personIds: [stage.people[0]!, gone] },
    WHO,
  ))!
  const none = (await saveTeam(stage.db, null, { name: 'nobody there', personIds: [gone] }, WHO))!
  const to = (id: number): Step => ({
    ...stage.tell(stage.mail),
    action: { do: 'notify', channelId: stage.mail, to: { kind: 'team', teamId: id } },
  })
  await stage.make([to(part), to(none)])
  const alertId = await stage.open({ subject: 'in part' })
  await stage.sendDue()
  const [first, second] = await stage.messages()
  expect(first).toMatchObject({ recipients: ['bo@a.example'], isFailed: false })
  expect(first!.answer).toMatch(/not taken for gone@a.example: 550 no such user here/)
  expect(second).toMatchObject({ isFailed: true, attempts: 1 })
  expect(second!.answer).toMatch(/550 no such user here/)
  const told = await stage.db.selectFrom('alertEvent').select('text').where('alertId', '=', alertId).execute()
  expect(told.map(({ text: words }) => words).join(' ')).toMatch(
    /Not taken for gone@a.example\.[^]*Could not be told/,
  )
})

test('what is told of one alert hangs together, says that a program wrote it, and from which site', async () => {
  await stage.make([stage.tell(stage.mail)])
  const id = await stage.open({ subject: 'thread' })
  await stage.sendDue()
  await stage.clear(id)
  await stage.sendDue(20)
  const root = `<alert-${id}@restless-rack>`
  const thread = stage.sink.mails.filter(({ head }) => head['references'] === root)
  expect(thread.map(({ subject }) => subject.split(':')[0])).toEqual(['[New site] New', '[New site] Cleared'])
  const [opened] = thread
  expect(opened!.head).toMatchObject({ 'auto-submitted': 'auto-generated', 'in-reply-to': root })
  expect(opened!.head['from']).toContain('Restless Rack')
  expect(opened!.text).toMatch(/^Severity: {2}warning$/m)
})

test('a password does not go in the open', () => {
  const settings = { host: 'localhost.example', port: 25, from: 'rack@a.example', username: 'rack' }
  const transport = waysOf(CHANNEL_FORMS.mail.parse(settings), 'secret')
  expect(transport).toMatchObject({ requireTLS: true })
  expect(waysOf(CHANNEL_FORMS.mail.parse({ ...settings, host: '127.0.0.1' }), 'secret')).toMatchObject({
    requireTLS: false,
  })
})

test('a wrong token is said in words, without the token', async () => {
  const { settings } = await stage.db
    .selectFrom('channel')
    .select('settings')
    .where('id', '=', stage.text)
    .executeTakeFirstOrThrow()
  const wrong = (await saveChannel(
    stage.db,
    null,
    { name: 'Wrong', kind: 'text', settings, sealedSecret: seal(key, { password: 'not-the-token' }) },
    WHO,
  ))!
  await stage.make([stage.tell(wrong)])
  await stage.open({ subject: 'g' })
  await stage.sendDue()
  expect((await stage.messages())[0]?.answer).toBe('not accepted: 401 token not accepted')
})

test('nobody to be reached is said, and not tried again', async () => {
  const empty = (await saveTeam(stage.db, null, { name: 'empty', personIds: [] }, WHO))!
  await stage.make([
    {
      after: AT_ONCE,
      evenIfTaken: false,
      action: { do: 'notify', channelId: stage.mail, to: { kind: 'team', teamId: empty } },
    },
  ])
  await stage.open({ subject: 'h' })
  await stage.sendDue()
  expect((await stage.messages())[0]).toMatchObject({
    isFailed: true,
    answer: 'nobody there has a mail address',
  })
})
