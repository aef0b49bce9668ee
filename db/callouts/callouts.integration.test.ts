import { sql } from 'kysely'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { listCallOuts, saveCallOut } from './callouts.ts'
import { deleteMeans, listMeans } from './channels.ts'
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
import * as callouts from '../migrations/015-callouts.ts'
import { readWebAddress } from '../platform/settings.ts'
import { callOutOf, tellByMail } from '../testing/callouts.ts'
import { freshDatabase } from '../testing/database.ts'

const WHO = 'a test'
let db: Db
let drop: () => Promise<void>
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(() => drop())

test('the mail setting of before becomes a means, a team with its people and a call-out', async () => {
  const before = await freshDatabase()
  try {
    // As it was: the tables of call-outs go, and the setting is there.
    await sql`
      drop table heartbeat, allowed_command, team_member, person, team, means, call_out cascade;
      alter table message drop column call_out_id, drop column step, drop column deed, drop column means_id,
        drop column target, drop column facts, drop column due_at, drop column tried_at, drop column is_failed,
        drop column is_dry;
      alter table collector drop column workers, drop column health;
      drop index alert_rule_key_subject_opened_at_idx, alert_words`.execute(before.db)
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
    await callouts.up(before.db as never)
    expect(await listMeans(before.db)).toEqual([
      {
        id: 1,
        name: 'Mail',
        kind: 'mail',
        settings: { host: 'mail.a.example', port: 587, from: 'rack@a.example', username: 'rack' },
        hasSecret: true,
      },
    ])
    const { sealedSecret } = await before.db
      .selectFrom('means')
      .select('sealedSecret')
      .executeTakeFirstOrThrow()
    expect(sealedSecret?.toString()).toBe('sealed')
    expect((await listPeople(before.db)).map(({ email }) => email)).toEqual(['bo@a.example', 'dag@a.example'])
    const [team] = await listTeams(before.db)
    expect(team).toMatchObject({ name: 'night team', personIds: [expect.any(Number), expect.any(Number)] })
    expect((await listCallOuts(before.db))[0]?.callOut).toMatchObject({
      name: 'Everything, by mail',
      severity: 'warning',
      steps: [{ deed: { do: 'tell', meansId: 1, to: { kind: 'team', teamId: team!.id } } }],
    })
    expect(
      await before.db.selectFrom('message').select(['meansId', 'target']).execute(),
      'what was on its way is not lost',
    ).toEqual([{ meansId: 1, target: { to: { kind: 'team', teamId: team!.id } } }])
    expect(await readWebAddress(before.db)).toBe('http://rack.a.example/')
  } finally {
    await before.drop()
  }
})

test('what a call-out needs stays until no call-out needs it; who goes has no turn any more', async () => {
  const { meansId, teamId, callOutId } = await tellByMail(db, {
    port: 25,
    to: ['bo@a.example', 'dag@a.example'],
  })
  expect(await deleteMeans(db, meansId, WHO)).toEqual(['Everything'])
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
  expect(await deleteMeans(db, meansId, WHO)).toEqual([])
  expect(await listMeans(db)).toEqual([])
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
