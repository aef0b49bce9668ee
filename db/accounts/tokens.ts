import { asRole, lesserRole, type Role } from '#core/accounts'
import { sql } from 'kysely'
import type { Db } from '../platform/connect.ts'
import { newToken, tokenHash } from '../sources/secrets.ts'

/** A token by which a program asks: of a person, or of a machine. */
export interface ApiToken {
  readonly id: number
  readonly name: string
  /** Whose it is; `null` of a machine. */
  readonly userId: string | null
  readonly owner: string | null
  readonly role: Role
  readonly madeBy: string
  readonly createdAt: Date
  readonly expiresAt: Date
  readonly lastUsedAt: Date | null
}

/** All tokens, or those of a person. */
export async function listApiTokens(db: Db, userId?: string): Promise<ApiToken[]> {
  const { rows } = await sql<ApiToken>`
    select api_token.id, api_token.name, user_id as "userId", "user".name as owner, api_token.role,
      made_by as "madeBy", created_at as "createdAt", expires_at as "expiresAt", last_used_at as "lastUsedAt"
    from api_token left join "user" on "user".id = user_id
    where ${userId ?? null}::text is null or user_id = ${userId ?? null}
    order by api_token.name`.execute(db.withoutPlugins())
  return rows
}

export interface NewApiToken {
  readonly name: string
  readonly userId: string | null
  readonly role: Role
  readonly madeBy: string
  readonly expiresAt: Date
}

/** @returns the token itself, which is kept as a hash only */
export async function insertApiToken(
  trx: Db,
  { name, userId, role, madeBy, expiresAt }: NewApiToken,
): Promise<string> {
  const token = newToken()
  await sql`
    insert into api_token (name, user_id, role, token_hash, made_by, expires_at)
    values (${name}, ${userId}, ${role}, ${tokenHash(token)}, ${madeBy}, ${expiresAt})`.execute(trx)
  return token
}

/** @param userId only of this person, when given @returns its name, or `undefined` when there is none */
export async function deleteApiToken(trx: Db, id: number, userId?: string): Promise<string | undefined> {
  const { rows } = await sql<{ name: string }>`
    delete from api_token where id = ${id} and (${userId ?? null}::text is null or user_id = ${userId ?? null})
    returning name`.execute(trx)
  return rows[0]?.name
}

export interface TokenHolder {
  readonly id: string
  readonly name: string
  readonly email: string
  readonly role: Role
}

const USE_WORTH_WRITING = sql`interval '1 minute'`

/**
 * Who asks with a token: whoever it belongs to, with the lesser of its role and theirs; a machine under its own name.
 * `undefined` when there is no such token, it has ended, or its account is switched off.
 */
export async function tokenHolder(db: Db, token: string): Promise<TokenHolder | undefined> {
  const { rows } = await sql<{
    id: number
    name: string
    userId: string | null
    owner: string | null
    email: string | null
    role: string
    ownerRole: string | null
    isStale: boolean
  }>`
    select api_token.id, api_token.name, user_id as "userId", "user".name as owner, email, api_token.role,
      "user".role as "ownerRole", last_used_at is null or last_used_at < now() - ${USE_WORTH_WRITING} as "isStale"
    from api_token left join "user" on "user".id = user_id
    where token_hash = ${tokenHash(token)} and expires_at > now() and not coalesce(banned, false)`.execute(
    db.withoutPlugins(),
  )
  const found = rows[0]
  if (found === undefined) return undefined
  if (found.isStale) await sql`update api_token set last_used_at = now() where id = ${found.id}`.execute(db)
  const role = asRole(found.role)
  if (found.userId === null)
    return { id: `token ${found.id}`, name: `${found.name} (token)`, email: '', role }
  return {
    id: found.userId,
    name: `${found.owner ?? ''} (token ${found.name})`,
    email: found.email ?? '',
    role: lesserRole(role, asRole(found.ownerRole)),
  }
}
