import { sql } from 'kysely'
import { randomBytes, randomUUID } from 'node:crypto'
import type { Role } from '#core/accounts'
import type { Db } from '../platform/connect.ts'
import { tokenHash } from '../sources/secrets.ts'
import { hashPassword } from './accounts.ts'

export type LinkPurpose = 'invite' | 'reset'

const newSecret = (): string => randomBytes(24).toString('base64url')

/** Makes an account without a password, which nobody can sign in to yet. @returns `null` when the address has one */
export async function insertInvited(
  trx: Db,
  { name, email, role }: { name: string; email: string; role: Role },
): Promise<string | null> {
  const { rows } = await sql<{ id: string }>`
    insert into "user" (id, name, email, "emailVerified", role)
    values (${randomUUID()}, ${name}, ${email.toLowerCase()}, true, ${role})
    on conflict (email) do nothing returning id`.execute(trx)
  return rows[0]?.id ?? null
}

/**
 * Makes the link by which somebody chooses a password, once; one that was made before for the same account is void.
 * @returns what the link ends with; it is kept as a hash only
 */
export async function insertAccountLink(
  trx: Db,
  link: { userId: string; purpose: LinkPurpose; madeBy: string; expiresAt: Date },
): Promise<string> {
  const secret = newSecret()
  await sql`delete from account_link where user_id = ${link.userId} or expires_at < now()`.execute(trx)
  await sql`
    insert into account_link (token_hash, user_id, purpose, made_by, expires_at)
    values (${tokenHash(secret)}, ${link.userId}, ${link.purpose}, ${link.madeBy}, ${link.expiresAt})`.execute(
    trx,
  )
  return secret
}

export interface OpenLink {
  readonly userId: string
  readonly name: string
  readonly email: string
  readonly purpose: LinkPurpose
}

/** Whose link it is; `undefined` when it was used, is too old, or never was, or when the account is switched off. */
export async function findAccountLink(db: Db, secret: string): Promise<OpenLink | undefined> {
  const { rows } = await sql<OpenLink>`
    select user_id as "userId", name, email, purpose from account_link join "user" on "user".id = user_id
    where token_hash = ${tokenHash(secret)} and expires_at > now() and not banned`.execute(
    db.withoutPlugins(),
  )
  return rows[0]
}

/** Uses a link up: the password is set, and whoever was signed in with an older one is not any more. */
export async function useAccountLink(
  trx: Db,
  secret: string,
  password: string,
): Promise<OpenLink | undefined> {
  const link = await findAccountLink(trx, secret)
  if (link === undefined) return undefined
  // Of two who open it at once, one finds it gone.
  const { numAffectedRows } =
    await sql`delete from account_link where token_hash = ${tokenHash(secret)}`.execute(trx)
  if (numAffectedRows !== 1n) return undefined
  await writePassword(trx, link.userId, password)
  await sql`delete from session where "userId" = ${link.userId}`.execute(trx)
  return link
}

async function writePassword(trx: Db, userId: string, password: string): Promise<void> {
  const hashed = await hashPassword(password)
  const { numAffectedRows } = await sql`
    update account set password = ${hashed}, "updatedAt" = now()
    where "userId" = ${userId} and "providerId" = 'credential'`.execute(trx)
  if (numAffectedRows === 0n)
    await sql`
      insert into account (id, "accountId", "providerId", "userId", password)
      values (${randomUUID()}, ${userId}, 'credential', ${userId}, ${hashed})`.execute(trx)
}
