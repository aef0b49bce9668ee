import { createHmac } from 'node:crypto'
import { type DirectoryRoles, type Role, roleByGroups } from '#core/accounts'
import { sql } from 'kysely'
import type { Db } from '../platform/connect.ts'
import { seal, type SecretKey, unseal } from '../sources/secrets.ts'

/** Signs cookies; derived, so that the key that seals credentials signs nothing. */
export const signingSecret = (key: SecretKey): string =>
  createHmac('sha256', key).update('session cookies').digest('hex')

/** Where accounts come from that are not kept here: an issuer of OpenID Connect (Core 1.0). */
export interface DirectorySettings {
  /** As it stands on the button: “Sign in with …”. */
  readonly name: string
  readonly issuer: string
  readonly clientId: string
  /** The claim that holds the groups. */
  readonly groupsClaim: string
  /** Which groups may what. Whoever is in none of them does not come in. */
  readonly roles: DirectoryRoles
  readonly isOn: boolean
}

export interface Directory extends DirectorySettings {
  readonly clientSecret: string
  readonly scopes: readonly string[]
  /** Another one whenever anything of it is changed. */
  readonly version: string
  readonly roleOf: (claims: Readonly<Record<string, unknown>>) => Role | null
}

interface Row extends DirectorySettings {
  readonly sealed: Buffer
}

async function readRow(db: Db): Promise<Row | undefined> {
  const { rows } = await sql<Row>`
    select name, issuer, client_id as "clientId", sealed, groups_claim as "groupsClaim", roles, is_on as "isOn"
    from directory`.execute(db.withoutPlugins())
  return rows[0]
}

/** What is set, without the secret. */
export async function readDirectorySettings(db: Db): Promise<DirectorySettings | undefined> {
  const row = await readRow(db)
  if (row === undefined) return undefined
  const { sealed: _, ...settings } = row
  return settings
}

/** The directory when one is set and on. @throws SealError when its secret cannot be opened */
export async function openDirectory(db: Db, key: SecretKey): Promise<Directory | undefined> {
  const row = await readRow(db)
  if (row === undefined || !row.isOn) return undefined
  const { sealed, ...settings } = row
  return {
    ...settings,
    clientSecret: unseal(key, sealed)['password'] ?? '',
    // Some issuers tell of groups only when asked for them by a scope of that name.
    scopes: settings.groupsClaim === 'groups' ? ['groups'] : [],
    version: JSON.stringify([settings, sealed.toString('base64')]),
    roleOf: (claims) => roleByGroups(settings.roles, claims[settings.groupsClaim]),
  }
}

/** @param secret `null`: the one that is kept stays */
export async function writeDirectory(
  trx: Db,
  key: SecretKey,
  settings: DirectorySettings,
  secret: string | null,
): Promise<void> {
  const { name, issuer, clientId, groupsClaim, roles, isOn } = settings
  const sealed = secret === null ? null : seal(key, { password: secret })
  await sql`
    insert into directory (name, issuer, client_id, sealed, groups_claim, roles, is_on)
    values (${name}, ${issuer}, ${clientId}, ${sealed ?? seal(key, { password: '' })}, ${groupsClaim}, ${JSON.stringify(roles)}, ${isOn})
    on conflict (id) do update set name = excluded.name, issuer = excluded.issuer, client_id = excluded.client_id,
      sealed = ${sealed === null ? sql`directory.sealed` : sql`excluded.sealed`},
      groups_claim = excluded.groups_claim, roles = excluded.roles, is_on = excluded.is_on`.execute(trx)
}
