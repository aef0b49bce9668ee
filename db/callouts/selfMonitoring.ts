import { sql } from 'kysely'
import { z } from 'zod'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import type { CollectorHealth } from '../platform/tables.ts'
import { tokenHash } from '../sources/secrets.ts'
import { recordChange } from '../platform/record.ts'
import { writeSetting } from '../platform/settings.ts'

// What the tool knows of itself: its collectors, what they run on, and the heartbeats between it and others.

/** On which gear the alarm runs: collectors and channels by name and number, and the database. */
const alarmSetting = z.object({
  collectors: z.record(z.string(), z.number()),
  database: z.number().nullable(),
  channels: z.record(z.string(), z.number()),
})
export type AlarmSetting = z.infer<typeof alarmSetting>

export async function readAlarm(db: Db): Promise<AlarmSetting> {
  const row = await db.selectFrom('setting').select('body').where('key', '=', 'alarm').executeTakeFirst()
  return alarmSetting.safeParse(row?.body).data ?? { collectors: {}, database: null, channels: {} }
}

export async function writeAlarm(db: Db, setting: AlarmSetting, who: string): Promise<void> {
  await within(db, async (trx) => {
    await writeSetting(trx, 'alarm', setting)
    await recordChange(trx, who, 'said on which gear the alarm runs')
    await announce(trx, { topic: 'callouts' })
  })
}

export async function sayHealth(db: Db, collector: string, health: CollectorHealth): Promise<void> {
  await db
    .updateTable('collector')
    .set({ health: JSON.stringify(health) })
    .where('name', '=', collector)
    .execute()
}

/** All collectors of the last day, by name. `silentMs`: for how long each has not been heard. */
export async function listCollectors(db: Db) {
  await sql`delete from collector where seen_at < now() - interval '1 day'`.execute(db)
  return db
    .selectFrom('collector')
    .select([
      'name',
      'health',
      sql<number>`extract(epoch from now() - seen_at)::float8 * 1000`.as('silentMs'),
    ])
    .orderBy('name')
    .execute()
}

export interface Heartbeat {
  readonly id: number
  readonly direction: 'out' | 'in'
  readonly name: string
  readonly url: string | null
  readonly sealedSecret: Buffer | null
  readonly intervalSeconds: number
  readonly since: Date
  readonly triedAt: Date | null
  readonly throughAt: Date | null
  readonly answer: string | null
}

export const listHeartbeats = (db: Db): Promise<Heartbeat[]> =>
  db
    .selectFrom('heartbeat')
    .select([
      'id',
      'direction',
      'name',
      'url',
      'sealedSecret',
      'intervalSeconds',
      'since',
      'triedAt',
      'throughAt',
      'answer',
    ])
    .orderBy('direction', 'desc')
    .orderBy('id')
    .execute()

/**
 * For how long messages and commands have been due while none at all was tried; 0 when none is due. What waits for its turn
 * behind others that are tried does not count, and what failed is due again only later.
 */
export async function untriedSeconds(db: Db): Promise<number> {
  const { rows } = await sql<{ seconds: number | null }>`
    select extract(epoch from now() - greatest(due.since, (select max(tried_at) from message)))::float8 as seconds
    from (
      select min(run_at) as since from graphile_worker.jobs
      where run_at <= now() and attempts < max_attempts
        and (locked_at is null or locked_at < now() - interval '2 minutes')
        and (task_identifier = 'notify' or task_identifier like 'command %')) as due
    where due.since is not null`.execute(db)
  return Math.max(0, rows[0]?.seconds ?? 0)
}

/** How many heartbeats in a row should have come, or gone through, and have not. */
export const missedBeats = (
  { intervalSeconds, since, throughAt }: Pick<Heartbeat, 'intervalSeconds' | 'since' | 'throughAt'>,
  nowMs: number,
): number => Math.max(0, Math.floor((nowMs - (throughAt ?? since).getTime()) / (intervalSeconds * 1000)) - 1)

/** @returns `null` when another has its name */
export async function insertHeartbeat(
  db: Db,
  beat: {
    readonly name: string
    readonly intervalSeconds: number
  } & (
    | { readonly direction: 'out'; readonly url: string; readonly sealedSecret: Buffer | null }
    | { readonly direction: 'in'; readonly token: string }
  ),
  who: string,
): Promise<number | null> {
  return within(db, async (trx) => {
    const row = await trx
      .insertInto('heartbeat')
      .values({
        name: beat.name,
        intervalSeconds: beat.intervalSeconds,
        direction: beat.direction,
        ...(beat.direction === 'out'
          ? { url: beat.url, sealedSecret: beat.sealedSecret }
          : { tokenHash: tokenHash(beat.token) }),
      })
      .onConflict((conflict) => conflict.doNothing())
      .returning('id')
      .executeTakeFirst()
    if (row === undefined) return null
    await recordChange(
      trx,
      who,
      `added the heartbeat ${beat.direction === 'out' ? 'to' : 'from'} ${beat.name}`,
    )
    await announce(trx, { topic: 'callouts' })
    return row.id
  })
}

export async function deleteHeartbeat(db: Db, id: number, who: string): Promise<void> {
  await within(db, async (trx) => {
    const row = await trx.deleteFrom('heartbeat').where('id', '=', id).returning('name').executeTakeFirst()
    if (row !== undefined) await recordChange(trx, who, `ended the heartbeat of ${row.name}`)
    await announce(trx, { topic: 'callouts' })
  })
}

/** Another installation has said that it lives. @returns false when the token is nobody's */
export async function hearBeat(db: Db, token: string): Promise<boolean> {
  const row = await db
    .updateTable('heartbeat')
    .set({ throughAt: new Date() })
    .where('direction', '=', 'in')
    .where('tokenHash', '=', tokenHash(token))
    .returning('id')
    .executeTakeFirst()
  return row !== undefined
}

export async function recordBeat(
  db: Db,
  id: number,
  { at, isThrough, answer }: { readonly at: Date; readonly isThrough: boolean; readonly answer: string },
): Promise<void> {
  await db
    .updateTable('heartbeat')
    .set({ triedAt: at, answer, ...(isThrough ? { throughAt: at } : {}) })
    .where('id', '=', id)
    .execute()
}
