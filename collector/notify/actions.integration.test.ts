import { randomUUID } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { sql } from 'kysely'
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest'
import type { Step } from '#core/callouts'
import { AT_ONCE } from '#db/testing/callouts'
import { callOutStage, MINUTE } from '../testing/callOutStage.ts'
import { dryRun, readCommands } from './commands.ts'

let stage: Awaited<ReturnType<typeof callOutStage>>
beforeAll(async () => {
  stage = await callOutStage()
})
beforeEach(() => stage.clean())
afterAll(() => stage.close())

const run = async (name: string) => {
  await stage.make([{ after: AT_ONCE, evenIfTaken: false, action: { do: 'command', name, rules: ['r'] } }])
  await stage.open({ subject: `command ${randomUUID()}` })
  await stage.sendDue()
  return (await stage.messages())[0]!
}
test.each([
  ['note', false, /^ended well: \{"id":".*"event":"opened"/],
  ['fails', true, /^ended with 3: broken$/],
  ['hangs', true, /^stopped after 1 s/],
])('the command “%s” is run without a shell, and how it ended is kept', async (name, isFailed, words) => {
  const done = await run(name)
  expect(done).toMatchObject({ isFailed, answer: expect.stringMatching(words) as string })
  const { text: said } = await stage.db
    .selectFrom('alertEvent')
    .select('text')
    .where('alertId', '=', done.alertId!)
    .where('what', '=', 'done')
    .executeTakeFirstOrThrow()
  expect(said).toMatch(new RegExp(`^The command “${name}” runs: `))
})

test('a dry run of a command runs nothing, and says whether it could', () => {
  const [note] = readCommands(stage.commandsPath)
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
  const before = readFileSync(stage.commandsPath, 'utf8')
  const names = () =>
    stage.db
      .selectFrom('allowedCommand')
      .select('name')
      .orderBy('name')
      .execute()
      .then((rows) => rows.map(({ name }) => name))
  expect(await stage.allowance.look()).toBe(false)
  writeFileSync(stage.commandsPath, JSON.stringify([{ name: 'other', program: '/bin/true' }]))
  expect(await stage.allowance.look()).toBe(true)
  expect(await names()).toEqual(['other'])
  writeFileSync(stage.commandsPath, '[{ "name": ')
  expect(await stage.allowance.look()).toBe(true)
  expect(await names()).toEqual([])
  writeFileSync(stage.commandsPath, before)
  expect(await stage.allowance.look()).toBe(true)
  expect(await names()).toEqual(['fails', 'hangs', 'note'])
})

test('what anybody can send runs nothing and stops nothing: neither when it comes, nor when it is due', async () => {
  const [note] = readCommands(stage.commandsPath)
  await stage.make([
    { after: AT_ONCE, evenIfTaken: false, action: { do: 'command', name: note!.name, rules: ['r'] } },
  ])
  await stage.open({ subject: `text ${randomUUID()}` })
  const [message] = (await stage.messages()).slice(-1)
  expect(message!.skipped).toBe('anybody can send such a text: it stops nothing and runs nothing')
  // One that waits from before the rule was there.
  await stage.db.updateTable('message').set({ skipped: null }).where('id', '=', message!.id).execute()
  await stage.notifier.send(stage.db, message!.id)
  expect((await stage.messages()).find(({ id }) => id === message!.id)).toMatchObject({
    sentAt: null,
    skipped: 'anybody can send such a text: it stops nothing and runs nothing',
  })
})

test('an action is looked at again before it is done: cleared, of another severity or too late, it is not', async () => {
  await stage.make([
    { after: AT_ONCE, evenIfTaken: true, action: { do: 'command', name: 'note', rules: ['r'] } },
  ])
  const due = async (change: (alertId: number, messageId: string) => Promise<unknown>) => {
    const alertId = await stage.open({ subject: `late ${randomUUID()}` })
    const { id } = (await stage.messages()).find((each) => each.alertId === alertId)!
    await change(alertId, id)
    await stage.notifier.send(stage.db, id)
    return (await stage.messages()).find((each) => each.id === id)!
  }
  const alert = (id: number) => stage.db.updateTable('alert').where('id', '=', id)
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
    stage.db
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
    await stage.db.deleteFrom('callOut').execute()
    await stage.make(steps)
    const alertId = await stage.open({ subject: `named ${randomUUID()}` })
    return (await stage.messages()).find((each) => each.alertId === alertId)
  }
  expect(await opened([command(['another'])])).toBeUndefined()
  // Of a call-out that was made before it had to name any.
  expect((await opened([command()]))?.skipped).toMatch(/^not done: it names no rule/)
  const waiting = (await opened([command(['r'])]))!
  expect(waiting.skipped).toBeNull()
  const steps = JSON.stringify([command(['another'])])
  await stage.db
    .updateTable('callOut')
    .set({ body: sql`jsonb_set(body, '{steps}', ${steps}::jsonb)` })
    .where('id', '=', waiting.callOutId!)
    .execute()
  await stage.notifier.send(stage.db, waiting.id)
  expect((await stage.messages()).find(({ id }) => id === waiting.id)).toMatchObject({
    sentAt: null,
    skipped: 'not done: its call-out does not say so any more',
  })
})

test('a command that no collector allows is not run, and says so', async () => {
  const message = await run('rm everything')
  expect(message.skipped).toBe('no collector allows the command “rm everything”')
  expect(
    await stage.db.selectFrom('allowedCommand').select('words').where('name', '=', 'fails').execute(),
  ).toEqual([{ words: '/bin/sh -c "echo broken >&2; exit 3"' }])
})

test.each([
  ['not json', /is not JSON/],
  [JSON.stringify([{ name: 'a', program: 'rm' }]), /absolute path/],
])('a list of commands that cannot be used allows nothing, and says why', (body, why) => {
  const path = join(dirname(stage.commandsPath), 'bad.json')
  writeFileSync(path, body)
  expect(() => readCommands(path)).toThrow(why)
  expect(readCommands(join(dirname(stage.commandsPath), 'none.json'))).toEqual([])
})
