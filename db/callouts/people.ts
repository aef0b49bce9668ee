import { z } from 'zod'
import type { DutyCalendar } from '#core/callouts'
import { listCallOuts } from './callouts.ts'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { recordChange } from '../platform/record.ts'

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
    await recordChange(trx, who, `${personId === null ? 'added' : 'changed'} the person ${name}`)
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
    await recordChange(trx, who, `${teamId === null ? 'added' : 'changed'} the team ${name}`)
    await announce(trx, { topic: 'callouts' })
    return kept.id
  })
}

/** @returns the call-outs that reach it, when there are any; it stays then */
export async function deleteTeam(db: Db, teamId: number, who: string): Promise<string[]> {
  return within(db, async (trx) => {
    const users = (await listCallOuts(trx)).filter(({ callOut }) =>
      callOut.steps.some(({ action: does }) => does.do === 'notify' && does.to?.teamId === teamId),
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
