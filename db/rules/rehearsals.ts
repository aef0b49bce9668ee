import { sql } from 'kysely'
import type { RehearsalRequest, RehearsalResult } from '#core/rules'
import type { Db } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'

/** Asks for a rehearsal; some collector does it. What the same person asked for before stops. @returns its id */
export async function requestRehearsal(db: Db, who: string, body: RehearsalRequest): Promise<string> {
  await sql`delete from rehearsal where requested_at < now() - interval '1 hour'`.execute(db)
  await sql`update rehearsal set cancelled_at = now()
    where requested_by = ${who} and finished_at is null and cancelled_at is null`.execute(db)
  const { id } = await db
    .insertInto('rehearsal')
    .values({ requestedBy: who, body: JSON.stringify(body) })
    .returning('id')
    .executeTakeFirstOrThrow()
  await announce(db, { topic: 'rehearsals', id })
  return id
}

export interface RehearsalState {
  readonly id: string
  /** 0..1 */
  readonly done: number
  readonly isFinished: boolean
  readonly isCancelled: boolean
  readonly result: RehearsalResult | null
  readonly problem: string | null
}

export async function findRehearsal(db: Db, id: string): Promise<RehearsalState | null> {
  const row = await db.selectFrom('rehearsal').selectAll().where('id', '=', id).executeTakeFirst()
  if (row === undefined) return null
  return {
    id,
    done: row.done,
    isFinished: row.finishedAt !== null,
    isCancelled: row.cancelledAt !== null,
    result: row.result,
    problem: row.problem,
  }
}

export async function cancelRehearsal(db: Db, id: string): Promise<void> {
  await db
    .updateTable('rehearsal')
    .set({ cancelledAt: new Date() })
    .where('id', '=', id)
    .where('finishedAt', 'is', null)
    .execute()
  await announce(db, { topic: 'rehearsals', id })
}

/** Takes one that waits. One that was begun by a process that died is taken again after a minute. */
export async function takeRehearsal(db: Db): Promise<{ id: string; body: RehearsalRequest } | null> {
  const { rows } = await sql<{ id: string; body: RehearsalRequest }>`
    update rehearsal set started_at = now() where id = (
      select id from rehearsal
      where finished_at is null and cancelled_at is null
        and (started_at is null or started_at < now() - interval '60 s')
      order by requested_at limit 1 for update skip locked
    ) returning id, body`.execute(db)
  return rows[0] ?? null
}

/** How far it is. @returns false once it is to stop */
export async function recordRehearsal(db: Db, id: string, done: number): Promise<boolean> {
  const row = await db
    .updateTable('rehearsal')
    .set({ done, startedAt: new Date() })
    .where('id', '=', id)
    .returning('cancelledAt')
    .executeTakeFirst()
  return row !== undefined && row.cancelledAt === null
}

export async function finishRehearsal(
  db: Db,
  id: string,
  outcome: { readonly result: RehearsalResult } | { readonly problem: string },
): Promise<void> {
  await db
    .updateTable('rehearsal')
    .set({
      finishedAt: new Date(),
      ...('result' in outcome
        ? { result: JSON.stringify(outcome.result), done: 1 }
        : { problem: outcome.problem }),
    })
    .where('id', '=', id)
    .execute()
  await announce(db, { topic: 'rehearsals', id })
}

/** Whether a rehearsal waits to be done, or is under way. */
export async function isRehearsalWaiting(db: Db): Promise<boolean> {
  const row = await db
    .selectFrom('rehearsal')
    .select('id')
    .where('finishedAt', 'is', null)
    .where('cancelledAt', 'is', null)
    .limit(1)
    .executeTakeFirst()
  return row !== undefined
}
