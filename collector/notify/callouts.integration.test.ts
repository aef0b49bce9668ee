import { randomBytes, randomUUID } from 'node:crypto'
import { chmodSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'kysely'
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest'
import type { CallOut, Step } from '#core/callouts'
import { clearAlerts, openAlert, takeAlert } from '#db/alerts'
import {
  CHANNEL_FORMS,
  saveCallOut,
  channelHealth,
  saveChannel,
  saveDuty,
  savePerson,
  saveTeam,
} from '#db/callouts'
import type { Db } from '#db/platform'
import { seal } from '#db/sources'
import { AT_ONCE, callOutOf } from '#db/testing/callouts'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { freePort } from '../../bin/setup/postgres.mjs'
import { type SunkMail, startMailSink } from '../../standins/mail/sink.ts'
import { Outside } from '../../standins/outside/server.ts'
import { Allowance } from './allowance.ts'
import { waysOf } from './channels/mail.ts'
import { dryRun, readCommands } from './commands.ts'
import { Notifier } from './notifier.ts'

const MINUTE = 60_000
const key = randomBytes(32)
const WHO = 'a test'
const folder = mkdtempSync(join(tmpdir(), 'rack-callouts-'))
const commandsPath = join(folder, 'commands.json')
let db: Db
let drop: () => Promise<void>
let notifier: Notifier
let allowance: Allowance
let sink: Awaited<ReturnType<typeof startMailSink>>
let outside: Outside
let mail = 0
let text = 0
let hook = 0
let teamId = 0
let people: number[] = []

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  const [mailPort, port] = [await freePort(), await freePort()]
  sink = await startMailSink(mailPort, undefined, undefined, (address) =>
    address.startsWith('gone') ? { code: 550, words: 'no such user here' } : null,
  )
  outside = new Outside({ port, token: 'gateway-token', secret: 'hook-secret', mails: sink.mails })
  await outside.start()
  const channel = async (
    name: string,
    kind: 'mail' | 'text' | 'hook',
    settings: Record<string, unknown>,
    password: string | null,
  ) =>
    (await saveChannel(
      db,
      null,
      { name, kind, settings, sealedSecret: password === null ? null : seal(key, { password }) },
      WHO,
    ))!
  mail = await channel(
    'Mail',
    'mail',
    { host: '127.0.0.1', port: mailPort, from: 'rack@a.example', username: '' },
    null,
  )
  text = await channel('Texts', 'text', { url: `http://127.0.0.1:${port}/texts` }, 'gateway-token')
  hook = await channel('Hook', 'hook', { url: `http://127.0.0.1:${port}/hooks/log` }, 'hook-secret')
  people = []
  for (const [name, phone] of [
    ['Bo', '+475550102'],
    ['Dag', '+475550104'],
  ] as const)
    people.push((await savePerson(db, null, { name, email: `${name}@a.example`.toLowerCase(), phone }, WHO))!)
  teamId = (await saveTeam(db, null, { name: 'night team', personIds: people }, WHO))!
  writeFileSync(
    commandsPath,
    JSON.stringify([
      { name: 'note', program: '/bin/cat' },
      { name: 'fails', program: '/bin/sh', arguments: ['-c', 'echo broken >&2; exit 3'] },
      { name: 'hangs', program: '/bin/sleep', arguments: ['60'], timeoutSeconds: 1 },
    ]),
  )
  chmodSync(commandsPath, 0o600)
  allowance = new Allowance(db, commandsPath, 'collector-1')
  await allowance.look()
  notifier = new Notifier(key, 0, allowance)
})
afterAll(async () => {
  outside.close()
  await sink.close()
  await drop()
  rmSync(folder, { recursive: true, force: true })
})
beforeEach(async () => {
  await db.deleteFrom('message').execute()
  await db.deleteFrom('callOut').execute()
})

const tell = (channelId: number, rest: Partial<Step> = {}, to: 'team' | 'duty' | null = 'team'): Step => ({
  after: AT_ONCE,
  evenIfTaken: false,
  action: { do: 'notify', channelId, to: to === null ? null : { kind: to, teamId } },
  ...rest,
})
const make = async (steps: readonly Step[], rest: Partial<CallOut> = {}): Promise<void> => {
  await saveCallOut(db, null, callOutOf(steps, rest), WHO)
}
const later = (minutes: number) => ({ kind: 'span', ms: minutes * MINUTE }) as const

interface Trouble {
  readonly subject: string
  readonly severity?: 'warning' | 'critical'
}
async function open({ subject, severity = 'warning' }: Trouble): Promise<number> {
  return db.transaction().execute(async (trx) => {
    const at = new Date()
    const [title, reason] = [`Trouble of ${subject}`, 'It is so.']
    const id = (await openAlert(trx, {
      ruleKey: 'r',
      seriesId: null,
      sourceId: null,
      gearId: null,
      partId: null,
      measure: null,
      subject,
      severity,
      title,
      reason,
      sinceAt: at,
      openedAt: at,
    }))!
    await notifier.notify(trx, { alertId: id, event: 'opened', title, reason, atMs: at.getTime() })
    return id
  })
}
async function clear(id: number): Promise<void> {
  await db.transaction().execute(async (trx) => {
    await clearAlerts(trx, [{ id, at: new Date(), reason: 'It is well again.' }])
    const title = 'Trouble'
    await notifier.notifyCleared(trx, { alertId: id, title, reason: 'It is well again.', atMs: Date.now() })
  })
}
/** Sends all that is due at a time: what is due later is brought forward by moving its time back. */
async function sendDue(inMinutes = 0): Promise<void> {
  const due = await db
    .selectFrom('message')
    .select('id')
    .where('sentAt', 'is', null)
    .where('skipped', 'is', null)
    .where('isFailed', '=', false)
    .where('dueAt', '<=', new Date(Date.now() + inMinutes * MINUTE + 500))
    .orderBy('dueAt')
    .execute()
  for (const { id } of due) await notifier.send(db, id).catch(() => undefined)
}
const messages = () => db.selectFrom('message').selectAll().orderBy('createdAt').orderBy('step').execute()
const mailsOf = (subject: string): readonly SunkMail[] =>
  sink.mails.filter((each) => each.subject.includes(`Trouble of ${subject}`))

test('mail at once, a text to who is on duty when it persists, and nothing more once somebody has it', async () => {
  await saveDuty(
    db,
    teamId,
    { personIds: [people[1]!], turnDays: 7, firstDay: '2026-01-05', handOverMinute: 480, swaps: [] },
    WHO,
  )
  await make([tell(mail), tell(text, { after: later(5) }, 'duty'), tell(mail, { after: later(30) })])
  const id = await open({ subject: 'a' })
  await sendDue()
  expect(mailsOf('a').map(({ to }) => to)).toEqual([['bo@a.example', 'dag@a.example']])
  expect(mailsOf('a')[0]?.html).toContain('<h1')
  expect(outside.texts).toEqual([])
  await sendDue(6)
  expect(outside.texts.map(({ to, text: said }) => [to, said])).toEqual([
    [
      '+475550104',
      expect.stringMatching(/^Still there after 5 min: Trouble of a, since \d\d:\d\d\. It is so\. http/),
    ],
  ])
  await takeAlert(db, id, 'Bo', new Date())
  await sendDue(40)
  expect(mailsOf('a')).toHaveLength(1)
  expect((await messages()).map(({ skipped }) => skipped)).toEqual([null, null, 'Bo has it'])
})

test('one message within the hold-off however often it comes back; that it has gone is told at the end of it', async () => {
  await make([tell(mail)], { holdOffMs: 10 * MINUTE })
  for (let turn = 0; turn < 5; turn += 1) {
    const id = await open({ subject: 'b' })
    await sendDue()
    await clear(id)
    await sendDue()
  }
  expect(mailsOf('b')).toHaveLength(1)
  const waiting = (await messages()).filter(({ sentAt, skipped }) => sentAt === null && skipped === null)
  expect(waiting.map(({ event }) => event)).toEqual(['cleared'])
  await sendDue(30)
  expect(sink.mails.at(-1)?.subject).toContain('Cleared: Trouble')
  expect(sink.mails.at(-1)?.messageId).toBe(`<${waiting[0]!.id}@restless-rack>`)
})

test('of a burst what goes on in a minute goes in one mail, the worst first', async () => {
  await make([tell(mail), tell(text)], { mostAMinute: 3 })
  const before = { mails: sink.mails.length, texts: outside.texts.length }
  const ids: number[] = []
  for (const index of Array(8).keys())
    ids.push(await open({ subject: `burst ${index}`, severity: index === 5 ? 'critical' : 'warning' }))
  await sendDue()
  const mails = sink.mails.slice(before.mails)
  expect(mails.map(({ subject }) => subject)).toEqual([
    expect.stringMatching(/Trouble of burst 5, and 7 more: 8 new; 1 is critical$/),
  ])
  const told = (await messages()).filter(({ step }) => step === 0)
  expect(mails[0]!.ids).toEqual(told.map(({ id }) => id))
  expect(mails[0]!.messageId).toBe(`<${told[0]!.id}@restless-rack>`)
  for (const id of ids) expect(mails[0]!.html).toContain(`/alerts/${id}"`)
  expect(told.every(({ sentAt, answer }) => sentAt !== null && answer!.endsWith('8 messages in one'))).toBe(
    true,
  )
  // One text for each of the two of the team.
  expect(outside.texts.slice(before.texts).map(({ text: said }) => said.slice(0, 24))).toEqual([
    '8 new; 1 is critical. Fi',
    '8 new; 1 is critical. Fi',
  ])
  const { rows } = await sql<{ left: string }>`select count(*) as left from graphile_worker.jobs
    join message on message.id::text = jobs.key where message.sent_at is not null and message.step = 0`.execute(
    db,
  )
  expect(Number(rows[0]!.left)).toBeLessThanOrEqual(1)
})

test('a minute that is full makes the rest wait for the next, and a mail server that is away loses nothing', async () => {
  await make([tell(mail)], { mostAMinute: 2 })
  const before = sink.mails.length
  for (const subject of ['full 1', 'full 2']) {
    await open({ subject })
    await sendDue()
  }
  for (const subject of ['full 3', 'full 4', 'full 5']) await open({ subject })
  await sendDue()
  expect(sink.mails.length - before).toBe(2)
  const waits = (await messages()).filter(({ sentAt }) => sentAt === null)
  expect(waits.map(({ attempts, skipped }) => [attempts, skipped])).toEqual([
    [0, null],
    [0, null],
    [0, null],
  ])
  const { rows } = await sql<{ seconds: number }>`select extract(epoch from run_at - now())::float8 as seconds
    from graphile_worker.jobs where key = any(${waits.map(({ id }) => id)})`.execute(db)
  expect(rows).toHaveLength(3)
  for (const { seconds } of rows) expect(Math.abs(seconds - 60)).toBeLessThan(10)
  // A minute later, the mail server being away for the first try.
  await db
    .updateTable('message')
    .set({ sentAt: new Date(Date.now() - 61_000) })
    .where('sentAt', 'is not', null)
    .execute()
  const { settings } = await db
    .selectFrom('channel')
    .select('settings')
    .where('id', '=', mail)
    .executeTakeFirstOrThrow()
  const set = (value: unknown) =>
    db
      .updateTable('channel')
      .set({ settings: JSON.stringify(value) })
      .where('id', '=', mail)
      .execute()
  await set({ ...(settings as object), port: await freePort() })
  await notifier.send(db, waits[1]!.id)
  const tried = (await messages()).filter(({ sentAt }) => sentAt === null)
  expect(tried.map(({ attempts }) => attempts)).toEqual([1, 1, 1])
  expect(sink.mails.length - before).toBe(2)
  await set(settings)
  await notifier.send(db, waits[2]!.id)
  expect(sink.mails.at(-1)?.subject).toContain('Trouble of full 3, and 2 more: 3 new')
  expect(sink.mails.at(-1)?.messageId).toBe(`<${waits[0]!.id}@restless-rack>`)
  expect((await messages()).every(({ sentAt }) => sentAt !== null)).toBe(true)
})

test('what goes before its step’s turn is not told by that step', async () => {
  await make([tell(mail), tell(text, { after: later(5) })])
  const before = outside.texts.length
  const id = await open({ subject: 'c' })
  await sendDue()
  await clear(id)
  await sendDue(10)
  expect(outside.texts).toHaveLength(before)
  expect((await messages()).find(({ step }) => step === 1)?.skipped).toBe('it went away before its turn came')
})

test('a call-out for what is critical says nothing of a warning, and hours wait or leave', async () => {
  await make([tell(mail)], { severity: 'critical' })
  await open({ subject: 'd' })
  expect(await messages()).toEqual([])
  await db.deleteFrom('callOut').execute()
  const today = (new Date().getUTCDay() + 6) % 7
  const hours = { days: [(today + 3) % 7], fromMinute: 0, toMinute: 60 }
  await make([tell(mail)], { hours, outside: 'wait' })
  await saveCallOut(db, null, callOutOf([tell(mail)], { name: 'Leaves', hours, outside: 'leave' }), WHO)
  await open({ subject: 'e' })
  const [waits, leaves] = (await messages()).sort(
    (a, b) => Number(a.skipped !== null) - Number(b.skipped !== null),
  )
  expect(waits!.dueAt.getTime() - Date.now()).toBeGreaterThan(24 * 60 * MINUTE)
  expect(leaves!.skipped).toBe('it is outside the hours of this call-out')
})

test('a hook is signed, a gateway that refuses is tried again, and a channel that is stuck is known to be', async () => {
  await make([tell(hook, {}, null), tell(text)])
  outside.gatewayFaults.cause('refuse', null, Date.now())
  const id = await open({ subject: 'f' })
  await sendDue()
  const [signed, refused] = await messages()
  expect(outside.hooks.at(-1)).toMatchObject({ id: signed!.id, isSigned: true, body: { alert: { id } } })
  expect(refused).toMatchObject({
    sentAt: null,
    attempts: 1,
    answer: 'not accepted: 503 the gateway is being serviced',
  })
  const health = await channelHealth(db, new Date(Date.now() + 3 * MINUTE))
  expect(health.map(({ name, stuck }) => [name, stuck])).toEqual([
    ['Mail', 0],
    ['Texts', 1],
    ['Hook', 0],
  ])
  outside.gatewayFaults.mend()
  const before = outside.texts.length
  await sendDue()
  expect(outside.texts).toHaveLength(before + 2)
  expect(new Set(outside.texts.slice(before).map((each) => each.id))).toEqual(new Set([refused!.id]))
  expect(JSON.stringify(await messages())).not.toMatch(/gateway-token|hook-secret/)
})

test('a mail that is taken for some says who is left out; one that is refused for good is not tried again', async () => {
  const gone = (await savePerson(db, null, { name: 'Gunn', email: 'gone@a.example', phone: '' }, WHO))!
  const part = (await saveTeam(db, null, { name: 'in part', personIds: [people[0]!, gone] }, WHO))!
  const none = (await saveTeam(db, null, { name: 'nobody there', personIds: [gone] }, WHO))!
  const to = (id: number): Step => ({
    ...tell(mail),
    action: { do: 'notify', channelId: mail, to: { kind: 'team', teamId: id } },
  })
  await make([to(part), to(none)])
  const alertId = await open({ subject: 'in part' })
  await sendDue()
  const [first, second] = await messages()
  expect(first).toMatchObject({ recipients: ['bo@a.example'], isFailed: false })
  expect(first!.answer).toMatch(/not taken for gone@a.example: 550 no such user here/)
  expect(second).toMatchObject({ isFailed: true, attempts: 1 })
  expect(second!.answer).toMatch(/550 no such user here/)
  const told = await db.selectFrom('alertEvent').select('text').where('alertId', '=', alertId).execute()
  expect(told.map(({ text: words }) => words).join(' ')).toMatch(
    /Not taken for gone@a.example\.[^]*Could not be told/,
  )
})

test('what is told of one alert hangs together, says that a program wrote it, and from which site', async () => {
  await make([tell(mail)])
  const id = await open({ subject: 'thread' })
  await sendDue()
  await clear(id)
  await sendDue(20)
  const root = `<alert-${id}@restless-rack>`
  const thread = sink.mails.filter(({ head }) => head['references'] === root)
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
  const { settings } = await db
    .selectFrom('channel')
    .select('settings')
    .where('id', '=', text)
    .executeTakeFirstOrThrow()
  const wrong = (await saveChannel(
    db,
    null,
    { name: 'Wrong', kind: 'text', settings, sealedSecret: seal(key, { password: 'not-the-token' }) },
    WHO,
  ))!
  await make([tell(wrong)])
  await open({ subject: 'g' })
  await sendDue()
  expect((await messages())[0]?.answer).toBe('not accepted: 401 token not accepted')
})

const run = async (name: string) => {
  await make([{ after: AT_ONCE, evenIfTaken: false, action: { do: 'command', name, rules: ['r'] } }])
  await open({ subject: `command ${randomUUID()}` })
  await sendDue()
  return (await messages())[0]!
}
test.each([
  ['note', false, /^ended well: \{"id":".*"event":"opened"/],
  ['fails', true, /^ended with 3: broken$/],
  ['hangs', true, /^stopped after 1 s/],
])('the command «%s» is run without a shell, and how it ended is kept', async (name, isFailed, words) => {
  const done = await run(name)
  expect(done).toMatchObject({ isFailed, answer: expect.stringMatching(words) as string })
  const { text: said } = await db
    .selectFrom('alertEvent')
    .select('text')
    .where('alertId', '=', done.alertId!)
    .where('what', '=', 'done')
    .executeTakeFirstOrThrow()
  expect(said).toMatch(new RegExp(`^The command «${name}» runs: `))
})

test('a dry run of a command runs nothing, and says whether it could', () => {
  const [note] = readCommands(commandsPath)
  expect(dryRun(note!)).toEqual({
    isWell: true,
    words: '/bin/cat would run for at most 30 s, without a shell, with the alert on its standard input.',
  })
  expect(dryRun({ ...note!, program: '/no/such' })).toMatchObject({
    isWell: false,
    words: expect.stringContaining('/no/such cannot be run (there is no such file)') as string,
  })
})

test('a list that is written anew is in force without a start, and one that cannot be read allows nothing', async () => {
  const before = readFileSync(commandsPath, 'utf8')
  const names = () =>
    db
      .selectFrom('allowedCommand')
      .select('name')
      .orderBy('name')
      .execute()
      .then((rows) => rows.map(({ name }) => name))
  expect(await allowance.look()).toBe(false)
  writeFileSync(commandsPath, JSON.stringify([{ name: 'other', program: '/bin/true' }]))
  expect(await allowance.look()).toBe(true)
  expect(await names()).toEqual(['other'])
  writeFileSync(commandsPath, '[{ "name": ')
  expect(await allowance.look()).toBe(true)
  expect(await names()).toEqual([])
  writeFileSync(commandsPath, before)
  expect(await allowance.look()).toBe(true)
  expect(await names()).toEqual(['fails', 'hangs', 'note'])
})

test('what anybody can send runs nothing and stops nothing: neither when it comes, nor when it is due', async () => {
  const [note] = readCommands(commandsPath)
  await make([
    { after: AT_ONCE, evenIfTaken: false, action: { do: 'command', name: note!.name, rules: ['r'] } },
  ])
  await open({ subject: `text ${randomUUID()}` })
  const [message] = (await messages()).slice(-1)
  expect(message!.skipped).toBe('anybody can send such a text: it stops nothing and runs nothing')
  // One that waits from before the rule was there.
  await db.updateTable('message').set({ skipped: null }).where('id', '=', message!.id).execute()
  await notifier.send(db, message!.id)
  expect((await messages()).find(({ id }) => id === message!.id)).toMatchObject({
    sentAt: null,
    skipped: 'anybody can send such a text: it stops nothing and runs nothing',
  })
})

test('an action is looked at again before it is done: cleared, of another severity or too late, it is not', async () => {
  await make([{ after: AT_ONCE, evenIfTaken: true, action: { do: 'command', name: 'note', rules: ['r'] } }])
  const due = async (change: (alertId: number, messageId: string) => Promise<unknown>) => {
    const alertId = await open({ subject: `late ${randomUUID()}` })
    const { id } = (await messages()).find((each) => each.alertId === alertId)!
    await change(alertId, id)
    await notifier.send(db, id)
    return (await messages()).find((each) => each.id === id)!
  }
  const alert = (id: number) => db.updateTable('alert').where('id', '=', id)
  const now = new Date()
  const cleared = await due((id) => alert(id).set({ clearedAt: now }).execute())
  expect(cleared).toMatchObject({
    sentAt: null,
    skipped: expect.stringMatching(/^not done: its alert cleared at/) as string,
  })
  const worse = await due((id) => alert(id).set({ severity: 'critical' }).execute())
  expect(worse).toMatchObject({
    sentAt: null,
    skipped: 'not done: its alert was warning and is critical now',
  })
  const late = await due((_, id) =>
    db
      .updateTable('message')
      .set({ dueAt: new Date(now.getTime() - 11 * MINUTE) })
      .where('id', '=', id)
      .execute(),
  )
  expect(late).toMatchObject({
    sentAt: null,
    skipped: expect.stringMatching(/^not done: too late, it was due at/) as string,
  })
  expect(await due(() => Promise.resolve())).toMatchObject({ skipped: null, isFailed: false })
})

test('what is done belongs to named rules: on no other alert is it done, nor after it was taken from its rule', async () => {
  const command = (rules?: readonly string[]): Step => ({
    after: AT_ONCE,
    evenIfTaken: true,
    action: { do: 'command', name: 'note', ...(rules === undefined ? {} : { rules }) },
  })
  const opened = async (steps: readonly Step[]) => {
    await db.deleteFrom('callOut').execute()
    await make(steps)
    const alertId = await open({ subject: `named ${randomUUID()}` })
    return (await messages()).find((each) => each.alertId === alertId)
  }
  expect(await opened([command(['another'])])).toBeUndefined()
  // Of a call-out that was made before it had to name any.
  expect((await opened([command()]))?.skipped).toMatch(/^not done: it names no rule/)
  const waiting = (await opened([command(['r'])]))!
  expect(waiting.skipped).toBeNull()
  const steps = JSON.stringify([command(['another'])])
  await db
    .updateTable('callOut')
    .set({ body: sql`jsonb_set(body, '{steps}', ${steps}::jsonb)` })
    .where('id', '=', waiting.callOutId!)
    .execute()
  await notifier.send(db, waiting.id)
  expect((await messages()).find(({ id }) => id === waiting.id)).toMatchObject({
    sentAt: null,
    skipped: 'not done: its call-out does not say so any more',
  })
})

test('a command that no collector allows is not run, and says so', async () => {
  const message = await run('rm everything')
  expect(message.skipped).toBe('no collector allows the command «rm everything»')
  expect(await db.selectFrom('allowedCommand').select('words').where('name', '=', 'fails').execute()).toEqual(
    [{ words: '/bin/sh -c "echo broken >&2; exit 3"' }],
  )
})

test.each([
  ['not json', /is not JSON/],
  [JSON.stringify([{ name: 'a', program: 'rm' }]), /absolute path/],
])('a list of commands that cannot be used allows nothing, and says why', (body, why) => {
  const path = join(folder, 'bad.json')
  writeFileSync(path, body)
  expect(() => readCommands(path)).toThrow(why)
  expect(readCommands(join(folder, 'none.json'))).toEqual([])
})

test('nobody to be reached is said, and not tried again', async () => {
  const empty = (await saveTeam(db, null, { name: 'empty', personIds: [] }, WHO))!
  await make([
    {
      after: AT_ONCE,
      evenIfTaken: false,
      action: { do: 'notify', channelId: mail, to: { kind: 'team', teamId: empty } },
    },
  ])
  await open({ subject: 'h' })
  await sendDue()
  expect((await messages())[0]).toMatchObject({ isFailed: true, answer: 'nobody there has a mail address' })
})
