import { sql } from 'kysely'
import type { Db } from '#db/platform'
import { newToken, tokenHash } from '../sources/secrets.ts'

export interface CalendarLink {
  readonly id: number
  readonly name: string
  readonly owner: string
  readonly createdAt: Date
  readonly lastUsedAt: Date | null
}

/** The links of one person. */
export async function listCalendarLinks(db: Db, userId: string): Promise<CalendarLink[]> {
  const { rows } = await sql<CalendarLink>`
    select calendar_link.id, calendar_link.name, "user".name as owner, created_at as "createdAt",
      last_used_at as "lastUsedAt"
    from calendar_link join "user" on "user".id = user_id where user_id = ${userId} order by calendar_link.name`.execute(
    db.withoutPlugins(),
  )
  return rows
}

/** @returns the secret of its address, which is kept as a hash only */
export async function insertCalendarLink(trx: Db, name: string, userId: string): Promise<string> {
  const token = newToken()
  await sql`
    insert into calendar_link (name, user_id, token_hash) values (${name}, ${userId}, ${tokenHash(token)})`.execute(
    trx,
  )
  return token
}

/** @returns its name, or `undefined` when this person has no such link */
export async function deleteCalendarLink(trx: Db, id: number, userId: string): Promise<string | undefined> {
  const { rows } = await sql<{ name: string }>`
    delete from calendar_link where id = ${id} and user_id = ${userId} returning name`.execute(trx)
  return rows[0]?.name
}

/** Whether an address is one of a person who may come in; that it was used is written down once a minute at most. */
export async function useCalendarLink(db: Db, token: string): Promise<boolean> {
  const { rows } = await sql<{ id: number; isStale: boolean }>`
    select calendar_link.id, last_used_at is null or last_used_at < now() - interval '1 minute' as "isStale"
    from calendar_link join "user" on "user".id = user_id
    where token_hash = ${tokenHash(token)} and not coalesce(banned, false)`.execute(db.withoutPlugins())
  const found = rows[0]
  if (found === undefined) return false
  if (found.isStale)
    await sql`update calendar_link set last_used_at = now() where id = ${found.id}`.execute(db)
  return true
}
