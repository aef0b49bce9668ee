import { hash } from '@node-rs/argon2'
import { randomUUID } from 'node:crypto'
import { sql } from 'kysely'
import { asRole, type Role, type Theme } from '#core/accounts'
import type { TemperatureScale } from '#core/units'
import { type Db, within } from '../platform/connect.ts'

/** Argon2id with the parameters that OWASP's password storage cheat sheet recommends (19 MiB, 2 passes). */
export const hashPassword = (password: string): Promise<string> =>
  hash(password, { memoryCost: 19_456, timeCost: 2, parallelism: 1 })

export interface NewAccount {
  readonly name: string
  readonly email: string
  readonly password: string
  readonly role: Role
}

/** @returns `null` when the address has an account already. */
export async function insertAccount(db: Db, account: NewAccount): Promise<string | null> {
  const id = randomUUID()
  const password = await hashPassword(account.password)
  return within(db, async (trx) => {
    const made = await sql<{ id: string }>`
      insert into "user" (id, name, email, "emailVerified", role)
      values (${id}, ${account.name}, ${account.email.toLowerCase()}, true, ${account.role})
      on conflict (email) do nothing returning id`.execute(trx)
    if (made.rows.length === 0) return null
    await sql`
      insert into account (id, "accountId", "providerId", "userId", password)
      values (${randomUUID()}, ${id}, 'credential', ${id}, ${password})`.execute(trx)
    return id
  })
}

/** Makes the first administrator, and only the first: two people who try at once do not both succeed. */
export async function insertFirstAdministrator(db: Db, account: Omit<NewAccount, 'role'>): Promise<boolean> {
  return within(db, async (trx) => {
    await sql`lock table "user" in exclusive mode`.execute(trx)
    if (await hasAccounts(trx)) return false
    const id = randomUUID()
    const password = await hashPassword(account.password)
    await sql`
      insert into "user" (id, name, email, "emailVerified", role)
      values (${id}, ${account.name}, ${account.email.toLowerCase()}, true, 'administer')`.execute(trx)
    await sql`
      insert into account (id, "accountId", "providerId", "userId", password)
      values (${randomUUID()}, ${id}, 'credential', ${id}, ${password})`.execute(trx)
    return true
  })
}

export async function hasAccounts(db: Db): Promise<boolean> {
  const { rows } = await sql`select 1 from "user" limit 1`.execute(db)
  return rows.length > 0
}

export interface AccountRow {
  readonly id: string
  readonly name: string
  readonly email: string
  readonly role: Role
  readonly isOff: boolean
  readonly hasSecondFactor: boolean
  /** Whether they can come in: with a password of their own, or by a directory. */
  readonly waits: boolean
  /** By which directory they come in; `null`: with a password. */
  readonly directory: string | null
  readonly lastSignInAt: Date | null
  readonly sessions: number
}

export async function listAccounts(db: Db): Promise<AccountRow[]> {
  const { rows } = await sql<AccountRow>`
    select "user".id, name, email, role, banned as "isOff", "twoFactorEnabled" as "hasSecondFactor",
      known.ways is null as waits, known.directory, "lastSignInAt", coalesce(open.count, 0)::int as sessions
    from "user"
    left join (
      select "userId", count(*) as ways, min("providerId") filter (where "providerId" <> 'credential') as directory
      from account group by "userId"
    ) known on known."userId" = "user".id
    left join (
      select "userId", count(*) as count from session where "expiresAt" > now() group by "userId"
    ) open on open."userId" = "user".id
    order by name, id`.execute(db.withoutPlugins())
  return rows.map((row) => ({ ...row, role: asRole(row.role) }))
}

export async function findAccount(db: Db, id: string): Promise<AccountRow | undefined> {
  return (await listAccounts(db)).find((account) => account.id === id)
}

/** Without this account nobody would administer. */
export class LastAdministrator extends Error {
  constructor() {
    super('the last account that administers')
  }
}

/** Nobody else changes accounts until the transaction ends. @throws LastAdministrator when no other would administer */
async function othersAdminister(trx: Db, id: string): Promise<void> {
  await sql`lock table "user" in exclusive mode`.execute(trx)
  const { rows } = await sql`
    select 1 from "user" where role = 'administer' and not banned and id <> ${id}
      and exists (select 1 from account where account."userId" = "user".id)`.execute(trx)
  if (rows.length === 0) throw new LastAdministrator()
}

/** @throws LastAdministrator when nobody would be left, and then changes nothing. */
export async function changeRole(db: Db, id: string, role: Role): Promise<void> {
  await within(db, async (trx) => {
    if (role !== 'administer') await othersAdminister(trx, id)
    await sql`update "user" set role = ${role} where id = ${id}`.execute(trx)
    await endSessions(trx, id)
  })
}

/** Switched off, an account cannot sign in, and whoever was signed in is not any more. @throws LastAdministrator */
export async function switchAccount(db: Db, id: string, isOn: boolean): Promise<void> {
  await within(db, async (trx) => {
    if (!isOn) await othersAdminister(trx, id)
    await sql`update "user" set banned = ${!isOn} where id = ${id}`.execute(trx)
    if (!isOn) {
      await endSessions(trx, id)
      await sql`delete from account_link where user_id = ${id}`.execute(trx)
    }
  })
}

/** What the account has done stays in the record. @throws LastAdministrator */
export async function deleteAccount(db: Db, id: string): Promise<void> {
  await within(db, async (trx) => {
    await othersAdminister(trx, id)
    await sql`delete from "user" where id = ${id}`.execute(trx)
  })
}

/** @param but a session that stays: that of whoever asks */
export async function endSessions(trx: Db, id: string, but: string | null = null): Promise<void> {
  await sql`
    delete from session where "userId" = ${id} and (${but}::text is null or id <> ${but})`.execute(trx)
}

/** For somebody who has lost what makes their codes. */
export async function dropSecondFactor(trx: Db, id: string): Promise<void> {
  await sql`delete from "twoFactor" where "userId" = ${id}`.execute(trx)
  await sql`update "user" set "twoFactorEnabled" = false where id = ${id}`.execute(trx)
}

export interface OwnSession {
  readonly id: string
  readonly createdAt: Date
  readonly lastAt: Date
  readonly address: string | null
  readonly browser: string | null
}

/** The sessions of a person that have not ended. */
export async function listSessions(db: Db, userId: string): Promise<OwnSession[]> {
  const { rows } = await sql<OwnSession>`
    select id, "createdAt", "updatedAt" as "lastAt", "ipAddress" as address, "userAgent" as browser
    from session where "userId" = ${userId} and "expiresAt" > now() order by "updatedAt" desc`.execute(
    db.withoutPlugins(),
  )
  return rows
}

/** @returns whether there was one of this person */
export async function endSession(trx: Db, userId: string, id: string): Promise<boolean> {
  const { numAffectedRows } = await sql`
    delete from session where id = ${id} and "userId" = ${userId}`.execute(trx)
  return numAffectedRows === 1n
}

export async function renameAccount(trx: Db, id: string, name: string): Promise<void> {
  await sql`update "user" set name = ${name}, "updatedAt" = now() where id = ${id}`.execute(trx)
}

export async function setTheme(trx: Db, id: string, theme: Theme): Promise<void> {
  await sql`update "user" set theme = ${theme}, "updatedAt" = now() where id = ${id}`.execute(trx)
}

export async function setTemperatures(trx: Db, id: string, scale: TemperatureScale): Promise<void> {
  await sql`update "user" set temperatures = ${scale}, "updatedAt" = now() where id = ${id}`.execute(trx)
}

/** Whose account a mail address belongs to. */
export async function accountOfEmail(
  db: Db,
  email: string,
): Promise<{ id: string; name: string } | undefined> {
  const { rows } = await sql<{ id: string; name: string }>`
    select id, name from "user" where email = ${email.trim().toLowerCase()}`.execute(db)
  return rows[0]
}

export async function noteSignIn(db: Db, id: string): Promise<void> {
  await sql`update "user" set "lastSignInAt" = now() where id = ${id}`.execute(db)
}

/**
 * What a directory says that somebody may; their sessions go on.
 * @returns false when nobody would administer any more: then they may what they might
 */
export async function giveRole(trx: Db, id: string, role: Role): Promise<boolean> {
  try {
    if (role !== 'administer') await othersAdminister(trx, id)
  } catch (error) {
    if (error instanceof LastAdministrator) return false
    throw error
  }
  await sql`update "user" set role = ${role} where id = ${id}`.execute(trx)
  return true
}
