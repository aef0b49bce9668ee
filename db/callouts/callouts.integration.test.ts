import { sql } from 'kysely'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { listCallOuts, saveCallOut } from './callouts.ts'
import { deleteChannel, listChannels } from './channels.ts'
import {
  deletePerson,
  deleteTeam,
  listPeople,
  listTeams,
  personForm,
  saveDuty,
  savePerson,
  saveTeam,
} from './people.ts'
import type { Db } from '../platform/connect.ts'
import { readWebAddress } from '../platform/settings.ts'
import { callOutOf, tellByMail } from '../testing/callouts.ts'
import { emptyDatabase, freshDatabase } from '../testing/database.ts'
import { migrateTo } from '../platform/migrate.ts'
import { readAlarm } from './selfMonitoring.ts'

const WHO = 'a test'
let db: Db
let drop: () => Promise<void>
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(() => drop())

test('the mail setting of before becomes a channel, a team with its people and a call-out', async () => {
  const before = await emptyDatabase()
  try {
    await migrateTo(before.db, '014-logs')
    const mail = {
      host: 'mail.a.example',
      port: 587,
      from: 'rack@a.example',
      team: 'night team',
      to: ['bo@a.example', 'dag@a.example'],
      username: 'rack',
      sealedPassword: Buffer.from('sealed').toString('base64'),
      webAddress: 'http://rack.a.example/',
    }
    await before.db
      .insertInto('setting')
      .values({ key: 'mail', body: JSON.stringify(mail) })
      .execute()
    const { id: alertId } = await before.db
      .insertInto('alert')
      .values({
        ruleKey: 'r',
        subject: 's',
        severity: 'warning',
        title: 't',
        reason: 'r',
        sinceAt: new Date(),
        openedAt: new Date(),
      } as never)
      .returning('id')
      .executeTakeFirstOrThrow()
    await sql`insert into message (id, alert_id, recipients, team, subject, body)
      values ('00000000-0000-4000-8000-000000000009', ${alertId}, '{bo@a.example}', 'night team', 's', 'b')`.execute(
      before.db,
    )
    await migrateTo(before.db, null)
    expect(await listChannels(before.db)).toEqual([
      {
        id: 1,
        name: 'Mail',
        kind: 'mail',
        settings: { host: 'mail.a.example', port: 587, from: 'rack@a.example', username: 'rack' },
        hasSecret: true,
      },
    ])
    const { sealedSecret } = await before.db
      .selectFrom('channel')
      .select('sealedSecret')
      .executeTakeFirstOrThrow()
    expect(sealedSecret?.toString()).toBe('sealed')
    expect((await listPeople(before.db)).map(({ email }) => email)).toEqual(['bo@a.example', 'dag@a.example'])
    const [team] = await listTeams(before.db)
    expect(team).toMatchObject({ name: 'night team', personIds: [expect.any(Number), expect.any(Number)] })
    expect((await listCallOuts(before.db))[0]?.callOut).toMatchObject({
      name: 'Everything, by mail',
      severity: 'warning',
      steps: [{ action: { do: 'notify', channelId: 1, to: { kind: 'team', teamId: team!.id } } }],
    })
    expect(
      await before.db.selectFrom('message').select(['channelId', 'target']).execute(),
      'what was on its way is not lost',
    ).toEqual([{ channelId: 1, target: { to: { kind: 'team', teamId: team!.id } } }])
    expect(await readWebAddress(before.db)).toBe('http://rack.a.example/')
  } finally {
    await before.drop()
  }
})

test('what was written in other words means the same in those of today', async () => {
  const before = await emptyDatabase()
  try {
    await migrateTo(before.db, '016-together')
    const steps = [
      {
        after: { kind: 'span', ms: 0 },
        evenIfTaken: false,
        deed: { do: 'tell', meansId: 1, to: { kind: 'team', teamId: 1 } },
      },
      { after: { kind: 'span', ms: 60_000 }, evenIfTaken: true, deed: { do: 'stop', gearId: null } },
    ]
    await sql`insert into means (name, kind, settings) values ('Mail', 'mail', '{}')`.execute(before.db)
    await sql`insert into call_out (name, body) values ('Old', ${JSON.stringify({ ...callOutOf([]), steps })})`.execute(
      before.db,
    )
    await sql`insert into message (id, recipients, team, subject, body, means_id)
      values ('00000000-0000-4000-8000-000000000010', '{}', 't', 's', 'b', 1)`.execute(before.db)
    await sql`insert into setting (key, body)
      values ('alarm', '{"collectors": {}, "database": 3, "means": {"1": 4}}')`.execute(before.db)
    await migrateTo(before.db, null)
    expect((await listCallOuts(before.db))[0]?.callOut.steps.map(({ action }) => action)).toEqual([
      { do: 'notify', channelId: 1, to: { kind: 'team', teamId: 1 } },
      { do: 'stop', gearId: null },
    ])
    expect(await readAlarm(before.db)).toEqual({ collectors: {}, database: 3, channels: { '1': 4 } })
    expect(await before.db.selectFrom('message').select(['action', 'channelId']).execute()).toEqual([
      { action: 'notify', channelId: 1 },
    ])
  } finally {
    await before.drop()
  }
})

test('what a call-out needs stays until no call-out needs it; who goes has no turn any more', async () => {
  const { channelId, teamId, callOutId } = await tellByMail(db, {
    port: 25,
    to: ['bo@a.example', 'dag@a.example'],
  })
  expect(await deleteChannel(db, channelId, WHO)).toEqual(['Everything'])
  expect(await deleteTeam(db, teamId, WHO)).toEqual(['Everything'])
  expect(await saveCallOut(db, null, callOutOf([]), WHO), 'a name is given once').toBeNull()
  expect(await saveCallOut(db, callOutId, callOutOf([], { name: 'Other' }), WHO)).toBe(callOutId)
  const [bo, dag] = (await listTeams(db))[0]!.personIds
  const duty = { personIds: [bo!, dag!], turnDays: 7, firstDay: '2026-01-05', handOverMinute: 480 }
  await saveDuty(db, teamId, { ...duty, swaps: [{ personId: dag!, fromMs: 0, toMs: 1 }] }, WHO)
  await deletePerson(db, dag!, WHO)
  expect((await listTeams(db))[0]).toMatchObject({
    personIds: [bo],
    duty: { personIds: [bo], swaps: [] },
  })
  await saveTeam(db, teamId, { name: 'night team', personIds: [] }, WHO)
  expect((await listTeams(db))[0]?.duty?.personIds).toEqual([])
  expect(await deleteChannel(db, channelId, WHO)).toEqual([])
  expect(await listChannels(db)).toEqual([])
})

test.each([
  [{ name: 'Eir', email: '', phone: '' }, 'Enter a mail address or a telephone number'],
  [{ name: 'Eir', email: 'nobody', phone: '' }, 'like name@example.org'],
  [{ name: 'Eir', email: '', phone: '555 0105' }, 'begins with + and the country'],
])('a person who cannot be reached is refused in words', (given, words) => {
  expect(
    personForm
      .safeParse(given)
      .error?.issues.map(({ message }) => message)
      .join(),
  ).toContain(words)
})

test('a telephone number is kept as it is dialled', async () => {
  const parsed = personForm.parse({ name: 'Eir', email: '', phone: '+47 (555) 01-05' })
  expect(parsed.phone).toBe('+475550105')
  expect(await savePerson(db, null, parsed, WHO)).not.toBeNull()
  expect(await savePerson(db, null, parsed, WHO), 'a name is given once').toBeNull()
})
