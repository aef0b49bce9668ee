import type { Db } from '../platform/connect.ts'

/** Something that is known to run on some days of the week: 0 is Monday. */
export interface KnownJob {
  readonly id: number
  readonly name: string
  readonly days: readonly number[]
  readonly fromMinute: number
  readonly minutes: number
  readonly madeBy: string
}

export const listKnownJobs = (db: Db): Promise<KnownJob[]> =>
  db
    .selectFrom('knownJob')
    .select(['id', 'name', 'days', 'fromMinute', 'minutes', 'madeBy'])
    .orderBy('fromMinute')
    .orderBy('name')
    .execute()

/** Keeps a known job; one of the same name is replaced. */
export async function writeKnownJob(
  trx: Db,
  { name, days, fromMinute, minutes }: Omit<KnownJob, 'id' | 'madeBy'>,
  who: string,
): Promise<void> {
  const said = { days: [...days], fromMinute, minutes, madeBy: who }
  await trx
    .insertInto('knownJob')
    .values({ name, ...said })
    .onConflict((conflict) => conflict.column('name').doUpdateSet({ ...said, madeAt: new Date() }))
    .execute()
}

/** @returns its name; `undefined` when it was not there */
export async function deleteKnownJob(trx: Db, id: number): Promise<string | undefined> {
  const gone = await trx.deleteFrom('knownJob').where('id', '=', id).returning('name').executeTakeFirst()
  return gone?.name
}
