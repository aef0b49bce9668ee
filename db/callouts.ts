import { sql } from 'kysely'
import { z } from 'zod'
import type { CallOut, CallNames, DutyCalendar, MeansKind } from '#core/callouts'
import { type Db, within } from './connect.ts'
import { announce } from './live.ts'
import { scopeForm } from './ruleForm.ts'
import { recordChange } from './settings.ts'

const id = z.number().int().positive()
const after = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('span'),
    ms: z
      .number()
      .int()
      .min(0)
      .max(30 * 86_400_000),
  }),
  z.object({ kind: z.literal('intervals'), count: z.number().int().min(0).max(1000) }),
])
const deed = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('tell'),
    meansId: id,
    to: z
      .discriminatedUnion('kind', [
        z.object({ kind: z.literal('team'), teamId: id }),
        z.object({ kind: z.literal('duty'), teamId: id }),
      ])
      .nullable(),
  }),
  z.object({ do: z.literal('command'), name: z.string().min(1).max(80) }),
  z.object({ do: z.literal('stop'), gearId: id.nullable() }),
])
const minute = z.number().int().min(0).max(1440)

/** The one description of what a call-out may be. */
export const callOutForm = z.object({
  name: z.string().trim().min(2, 'Give the call-out a name').max(80),
  severity: z.enum(['critical', 'warning']),
  scope: scopeForm,
  hours: z
    .object({
      days: z.array(z.number().int().min(0).max(6)).min(1, 'Choose at least one day of the week'),
      fromMinute: minute,
      toMinute: minute,
    })
    .nullable(),
  outside: z.enum(['wait', 'leave']),
  holdOffMs: z
    .number()
    .int()
    .min(0)
    .max(7 * 86_400_000, 'A hold-off is at most 7 d'),
  mostAMinute: z
    .number('Say as a number how many messages may go out in a minute')
    .int()
    .min(1, 'At least one message a minute goes out')
    .max(600, 'At most 600 messages a minute go out alone'),
  tellsCleared: z.boolean(),
  steps: z
    .array(z.object({ after, deed, evenIfTaken: z.boolean() }))
    .min(1, 'A call-out has at least one step')
    .max(8, 'A call-out has at most 8 steps'),
})

export interface CallOutRow {
  readonly id: number
  readonly isOn: boolean
  readonly callOut: CallOut
  readonly createdBy: string | null
}

export async function listCallOuts(db: Db): Promise<CallOutRow[]> {
  const rows = await db.selectFrom('callOut').selectAll().orderBy('id').execute()
  return rows.map(({ body, ...row }) => ({ ...row, callOut: body }))
}

/** Keeps a call-out: a new one, or another form of one. @returns `null` when another has its name */
export async function saveCallOut(
  db: Db,
  callOutId: number | null,
  callOut: CallOut,
  who: string,
): Promise<number | null> {
  return within(db, async (trx) => {
    const { name } = callOut
    const other = await trx.selectFrom('callOut').select('id').where('name', '=', name).executeTakeFirst()
    if (other !== undefined && other.id !== callOutId) return null
    const body = JSON.stringify(callOut)
    const kept =
      callOutId === null
        ? await trx
            .insertInto('callOut')
            .values({ name, body, createdBy: who })
            .returning('id')
            .executeTakeFirst()
        : await trx
            .updateTable('callOut')
            .set({ name, body })
            .where('id', '=', callOutId)
            .returning('id')
            .executeTakeFirst()
    if (kept === undefined) return null
    await recordChange(trx, who, `${callOutId === null ? 'made' : 'changed'} the call-out «${name}»`)
    await announce(trx, { topic: 'callouts' })
    return kept.id
  })
}

export async function switchCallOut(db: Db, callOutId: number, isOn: boolean, who: string): Promise<void> {
  await within(db, async (trx) => {
    const row = await trx
      .updateTable('callOut')
      .set({ isOn })
      .where('id', '=', callOutId)
      .returning('name')
      .executeTakeFirst()
    if (row === undefined) return
    await recordChange(trx, who, `switched the call-out «${row.name}» ${isOn ? 'on' : 'off'}`)
    await announce(trx, { topic: 'callouts' })
  })
}

/** What it was about to tell is not told any more. */
export async function deleteCallOut(db: Db, callOutId: number, who: string): Promise<void> {
  await within(db, async (trx) => {
    await trx
      .updateTable('message')
      .set({ skipped: 'its call-out is gone' })
      .where('callOutId', '=', callOutId)
      .where('sentAt', 'is', null)
      .where('skipped', 'is', null)
      .execute()
    const row = await trx
      .deleteFrom('callOut')
      .where('id', '=', callOutId)
      .returning('name')
      .executeTakeFirst()
    if (row === undefined) return
    await recordChange(trx, who, `deleted the call-out «${row.name}»`)
    await announce(trx, { topic: 'callouts' })
  })
}

// Means

/** What each kind of means needs to know. Secrets are kept apart, sealed. */
export const MEANS_FORMS = {
  mail: z.object({
    host: z.string().trim().min(1, 'Enter the host of the mail server'),
    port: z.coerce.number('A port is a number').int().min(1).max(65535, 'A port is at most 65535'),
    from: z.email('Enter the address that mail comes from, like rack@example.org'),
    username: z.string().trim().default(''),
  }),
  text: z.object({
    url: z.url({
      protocol: /^https?$/,
      error: 'Enter the address of the gateway, beginning with http:// or https://',
    }),
    format: z.enum(['json', 'form']).default('json'),
    toField: z.string().trim().min(1, 'Name the field that takes the number').max(60).default('to'),
    textField: z.string().trim().min(1, 'Name the field that takes the text').max(60).default('text'),
    idField: z.string().trim().max(60).default('id'),
    /** With a password it is HTTP Basic, with a token alone Bearer (RFC 7617, RFC 6750). */
    username: z.string().trim().default(''),
  }),
  hook: z.object({
    url: z.url({
      protocol: /^https?$/,
      error: 'Enter the address of the hook, beginning with http:// or https://',
    }),
  }),
  screen: z.object({ sound: z.enum(['no', 'once', 'taken']).default('no') }),
} as const satisfies Record<MeansKind, z.ZodType>
export type MeansSettings<K extends MeansKind> = z.infer<(typeof MEANS_FORMS)[K]>

export interface MeansRow {
  readonly id: number
  readonly name: string
  readonly kind: MeansKind
  readonly settings: Readonly<Record<string, unknown>>
  readonly hasSecret: boolean
}

export async function listMeans(db: Db): Promise<MeansRow[]> {
  const rows = await db.selectFrom('means').selectAll().orderBy('id').execute()
  return rows.map(({ id: meansId, name, kind, settings, sealedSecret }) => ({
    id: meansId,
    name,
    kind,
    settings,
    hasSecret: sealedSecret !== null,
  }))
}

export interface NewMeans {
  readonly name: string
  readonly kind: MeansKind
  readonly settings: Readonly<Record<string, unknown>>
  /** `undefined` keeps the one there is. */
  readonly sealedSecret: Buffer | null | undefined
}

/** @returns `null` when another has its name */
export async function saveMeans(
  db: Db,
  meansId: number | null,
  { name, kind, settings, sealedSecret }: NewMeans,
  who: string,
): Promise<number | null> {
  return within(db, async (trx) => {
    const other = await trx.selectFrom('means').select('id').where('name', '=', name).executeTakeFirst()
    if (other !== undefined && other.id !== meansId) return null
    const values = { name, kind, settings: JSON.stringify(settings) }
    const kept =
      meansId === null
        ? await trx
            .insertInto('means')
            .values({ ...values, sealedSecret: sealedSecret ?? null })
            .returning('id')
            .executeTakeFirstOrThrow()
        : await trx
            .updateTable('means')
            .set({ ...values, ...(sealedSecret === undefined ? {} : { sealedSecret }) })
            .where('id', '=', meansId)
            .returning('id')
            .executeTakeFirst()
    if (kept === undefined) return null
    await recordChange(trx, who, `${meansId === null ? 'made' : 'changed'} the means «${name}»`)
    await announce(trx, { topic: 'callouts' })
    return kept.id
  })
}

/** @returns the call-outs that tell by it, when there are any; it stays then */
export async function deleteMeans(db: Db, meansId: number, who: string): Promise<string[]> {
  return within(db, async (trx) => {
    const users = (await listCallOuts(trx)).filter(({ callOut }) =>
      callOut.steps.some(({ deed: does }) => does.do === 'tell' && does.meansId === meansId),
    )
    if (users.length > 0) return users.map(({ callOut }) => callOut.name)
    const row = await trx.deleteFrom('means').where('id', '=', meansId).returning('name').executeTakeFirst()
    if (row !== undefined) await recordChange(trx, who, `deleted the means «${row.name}»`)
    await announce(trx, { topic: 'callouts' })
    return []
  })
}

// People, teams, duty

export interface Person {
  readonly id: number
  readonly name: string
  readonly email: string | null
  readonly phone: string | null
}
export interface Team {
  readonly id: number
  readonly name: string
  readonly duty: DutyCalendar | null
  readonly personIds: readonly number[]
}

export const listPeople = (db: Db): Promise<Person[]> =>
  db.selectFrom('person').selectAll().orderBy('name').execute()

export async function listTeams(db: Db): Promise<Team[]> {
  const [teams, members] = await Promise.all([
    db.selectFrom('team').selectAll().orderBy('id').execute(),
    db
      .selectFrom('teamMember')
      .innerJoin('person', 'person.id', 'teamMember.personId')
      .select(['teamId', 'personId'])
      .orderBy('person.name')
      .execute(),
  ])
  return teams.map((team) => ({
    ...team,
    personIds: members.flatMap(({ teamId, personId }) => (teamId === team.id ? [personId] : [])),
  }))
}

export const personForm = z
  .object({
    name: z.string().trim().min(1, 'Enter a name').max(64),
    email: z.union([z.literal(''), z.email('Enter a mail address, like name@example.org')]),
    /** ITU-T E.164. */
    phone: z
      .string()
      .transform((text) => text.replaceAll(/[\s()/-]/g, ''))
      .pipe(
        z.union([
          z.literal(''),
          z
            .string()
            .regex(/^\+[1-9]\d{4,14}$/, 'A telephone number begins with + and the country, as +47 555 01 23'),
        ]),
      ),
  })
  .refine(({ email, phone }) => email !== '' || phone !== '', 'Enter a mail address or a telephone number')

/** @returns `null` when another has the name */
export async function savePerson(
  db: Db,
  personId: number | null,
  { name, email, phone }: z.infer<typeof personForm>,
  who: string,
): Promise<number | null> {
  return within(db, async (trx) => {
    const other = await trx.selectFrom('person').select('id').where('name', '=', name).executeTakeFirst()
    if (other !== undefined && other.id !== personId) return null
    const values = { name, email: email === '' ? null : email, phone: phone === '' ? null : phone }
    const kept =
      personId === null
        ? await trx.insertInto('person').values(values).returning('id').executeTakeFirst()
        : await trx
            .updateTable('person')
            .set(values)
            .where('id', '=', personId)
            .returning('id')
            .executeTakeFirst()
    await recordChange(trx, who, `${personId === null ? 'entered' : 'changed'} ${name} among the people`)
    await announce(trx, { topic: 'callouts' })
    return kept?.id ?? null
  })
}

/** Somebody goes: out of the teams, and out of the turns. */
export async function deletePerson(db: Db, personId: number, who: string): Promise<void> {
  await within(db, async (trx) => {
    for (const team of await listTeams(trx))
      if (team.duty !== null)
        await setDuty(trx, team.id, {
          ...team.duty,
          personIds: team.duty.personIds.filter((each) => each !== personId),
          swaps: team.duty.swaps.filter((swap) => swap.personId !== personId),
        })
    const row = await trx.deleteFrom('person').where('id', '=', personId).returning('name').executeTakeFirst()
    if (row !== undefined) await recordChange(trx, who, `took ${row.name} out of the people`)
    await announce(trx, { topic: 'callouts' })
  })
}

/** A team with its people. Who is not in it any more has no turns either. @returns `null` when another has the name */
export async function saveTeam(
  db: Db,
  teamId: number | null,
  { name, personIds }: { readonly name: string; readonly personIds: readonly number[] },
  who: string,
): Promise<number | null> {
  return within(db, async (trx) => {
    const other = await trx.selectFrom('team').selectAll().where('name', '=', name).executeTakeFirst()
    if (other !== undefined && other.id !== teamId) return null
    const kept =
      teamId === null
        ? await trx.insertInto('team').values({ name }).returning(['id', 'duty']).executeTakeFirst()
        : await trx
            .updateTable('team')
            .set({ name })
            .where('id', '=', teamId)
            .returning(['id', 'duty'])
            .executeTakeFirst()
    if (kept === undefined) return null
    await trx.deleteFrom('teamMember').where('teamId', '=', kept.id).execute()
    if (personIds.length > 0)
      await trx
        .insertInto('teamMember')
        .values(personIds.map((personId) => ({ teamId: kept.id, personId })))
        .execute()
    if (kept.duty !== null)
      await setDuty(trx, kept.id, {
        ...kept.duty,
        personIds: kept.duty.personIds.filter((each) => personIds.includes(each)),
        swaps: kept.duty.swaps.filter((swap) => personIds.includes(swap.personId)),
      })
    await recordChange(trx, who, `${teamId === null ? 'made' : 'changed'} the team ${name}`)
    await announce(trx, { topic: 'callouts' })
    return kept.id
  })
}

/** @returns the call-outs that reach it, when there are any; it stays then */
export async function deleteTeam(db: Db, teamId: number, who: string): Promise<string[]> {
  return within(db, async (trx) => {
    const users = (await listCallOuts(trx)).filter(({ callOut }) =>
      callOut.steps.some(({ deed: does }) => does.do === 'tell' && does.to?.teamId === teamId),
    )
    if (users.length > 0) return users.map(({ callOut }) => callOut.name)
    const row = await trx.deleteFrom('team').where('id', '=', teamId).returning('name').executeTakeFirst()
    if (row !== undefined) await recordChange(trx, who, `deleted the team ${row.name}`)
    await announce(trx, { topic: 'callouts' })
    return []
  })
}

export async function saveDuty(
  db: Db,
  teamId: number,
  duty: DutyCalendar | null,
  who: string,
): Promise<void> {
  await within(db, async (trx) => {
    await setDuty(trx, teamId, duty)
    await recordChange(trx, who, `changed the duty of team ${teamId}`)
    await announce(trx, { topic: 'callouts' })
  })
}

const setDuty = (db: Db, teamId: number, duty: DutyCalendar | null): Promise<unknown> =>
  db
    .updateTable('team')
    .set({ duty: duty === null ? null : JSON.stringify(duty) })
    .where('id', '=', teamId)
    .execute()

/** Names of what call-outs point to. */
export async function callNames(db: Db): Promise<CallNames> {
  const [means, teams, gear] = await Promise.all([
    listMeans(db),
    listTeams(db),
    db.selectFrom('gear').select(['id', 'name']).where('mergedInto', 'is', null).execute(),
  ])
  return {
    means: new Map(means.map(({ id: meansId, name, kind }) => [meansId, { name, kind }])),
    teams: new Map(teams.map(({ id: teamId, name }) => [teamId, name])),
    gear: new Map(gear.map(({ id: gearId, name }) => [gearId, name])),
  }
}

// Commands

/** A collector says which commands its machine allows. */
export async function reportCommands(
  db: Db,
  collector: string,
  commands: readonly { readonly name: string; readonly words: string }[],
): Promise<void> {
  await within(db, async (trx) => {
    await trx.deleteFrom('allowedCommand').where('collector', '=', collector).execute()
    if (commands.length > 0)
      await trx
        .insertInto('allowedCommand')
        .values(commands.map((command) => ({ collector, ...command })))
        .execute()
  })
}

export const listCommands = (db: Db) =>
  db.selectFrom('allowedCommand').select(['collector', 'name', 'words']).orderBy('name').execute()

// Messages

/** The newest messages, what waits first. */
export const listMessages = (db: Db, most: number) =>
  db
    .selectFrom('message')
    .leftJoin('means', 'means.id', 'message.meansId')
    .leftJoin('alert', 'alert.id', 'message.alertId')
    .leftJoin('callOut', 'callOut.id', 'message.callOutId')
    .select([
      'message.id',
      'message.alertId',
      'message.team',
      'message.event',
      'message.subject',
      'message.deed',
      'message.step',
      'message.dueAt',
      'message.createdAt',
      'message.sentAt',
      'message.attempts',
      'message.answer',
      'message.skipped',
      'message.isFailed',
      'message.isDry',
      'message.recipients',
      'message.meansId',
      'means.name as meansName',
      'means.kind as meansKind',
      'alert.title',
      'callOut.name as callOutName',
    ])
    .orderBy('message.dueAt', 'desc')
    .limit(most)
    .execute()

/** What is called out on every open page: open, and taken by nobody yet. The newest first. */
export const listScreenCalls = (db: Db, most: number) =>
  db
    .selectFrom('message')
    .innerJoin('means', 'means.id', 'message.meansId')
    .innerJoin('alert', 'alert.id', 'message.alertId')
    .select([
      'message.id',
      'alert.id as alertId',
      'alert.title',
      'alert.severity',
      'message.sentAt',
      'means.settings',
    ])
    .where('means.kind', '=', 'screen')
    .where('message.sentAt', 'is not', null)
    .where('message.event', '!=', 'cleared')
    .where('alert.clearedAt', 'is', null)
    .where('alert.takenAt', 'is', null)
    .where('alert.quietId', 'is', null)
    .orderBy('message.sentAt', 'desc')
    .limit(most)
    .execute()

/** Of each means: when something last went through, and what has not gone through though its time has come. */
export async function meansHealth(db: Db, now: Date) {
  const [rows, stuck] = await Promise.all([
    db
      .selectFrom('means')
      .leftJoin('message', 'message.meansId', 'means.id')
      .select((eb) => [
        'means.id',
        'means.name',
        'means.kind',
        eb.fn.max('message.sentAt').filterWhere('message.isFailed', '=', false).as('throughAt'),
      ])
      .groupBy(['means.id', 'means.name', 'means.kind'])
      .orderBy('means.id')
      .execute(),
    db
      .selectFrom('message')
      .select((eb) => [
        'meansId',
        eb.fn.countAll<string>().as('count'),
        eb.fn.min('dueAt').as('since'),
        sql<string | null>`(array_agg(answer order by tried_at desc nulls last))[1]`.as('answer'),
      ])
      .where('sentAt', 'is', null)
      .where('skipped', 'is', null)
      .where('isFailed', '=', false)
      .where('attempts', '>', 0)
      .where('dueAt', '<=', now)
      .groupBy('meansId')
      .execute(),
  ])
  return rows.map((row) => {
    const own = stuck.find(({ meansId }) => meansId === row.id)
    return {
      ...row,
      stuck: Number(own?.count ?? 0),
      stuckSince: own?.since ?? null,
      answer: own?.answer ?? null,
    }
  })
}
