import { hash } from '@node-rs/argon2'
import { randomUUID } from 'node:crypto'
import { sql } from 'kysely'
import { asRole, type Role } from '#core/accounts'
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
}

export async function listAccounts(db: Db): Promise<AccountRow[]> {
  const { rows } = await sql<{ id: string; name: string; email: string; role: string | null }>`
    select id, name, email, role from "user" order by name`.execute(db)
  return rows.map((row) => ({ ...row, role: asRole(row.role) }))
}

/** @returns false when it would leave no administrator, and then changes nothing. */
export async function changeRole(db: Db, id: string, role: Role): Promise<boolean> {
  return within(db, async (trx) => {
    await sql`lock table "user" in exclusive mode`.execute(trx)
    const { rows } = await sql`select 1 from "user" where role = 'administer' and id <> ${id}`.execute(trx)
    if (role !== 'administer' && rows.length === 0) return false
    await sql`update "user" set role = ${role} where id = ${id}`.execute(trx)
    await sql`delete from session where "userId" = ${id}`.execute(trx)
    return true
  })
}
