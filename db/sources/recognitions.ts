import { sql } from 'kysely'
import type { Db } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import type { Recognised } from '#core/sources'
import { type SecretKey, unseal } from './secrets.ts'
import type { CredentialDestinations } from './sources.ts'

export interface NewRecognition {
  readonly requestedBy: string
  readonly hosts: readonly string[]
  readonly tcpPorts: readonly number[]
  readonly udpPorts: readonly number[]
  readonly credentialIds: readonly number[]
}

/** Asks for addresses to be looked through; some collector does it. @returns its id */
export async function requestRecognition(db: Db, asked: NewRecognition): Promise<string> {
  await sql`delete from recognition where requested_at < now() - interval '1 day'`.execute(db)
  const { id } = await db
    .insertInto('recognition')
    .values({
      requestedBy: asked.requestedBy,
      hosts: [...asked.hosts],
      tcpPorts: [...asked.tcpPorts],
      udpPorts: [...asked.udpPorts],
      credentialIds: [...asked.credentialIds],
    })
    .returning('id')
    .executeTakeFirstOrThrow()
  await announce(db, { topic: 'checks', id })
  return id
}

export const findRecognition = (db: Db, id: string) =>
  db.selectFrom('recognition').selectAll().where('id', '=', id).executeTakeFirst()

export interface OpenRecognition {
  readonly id: string
  readonly hosts: readonly string[]
  readonly tcpPorts: readonly number[]
  readonly udpPorts: readonly number[]
  readonly credentials: readonly (CredentialDestinations & {
    readonly id: number
    readonly secret: Record<string, string>
  })[]
}

const ABANDONED_S = 300

/** The oldest that nobody does, with its credentials opened; one whose collector died is done again. */
export async function takeRecognition(db: Db, key: SecretKey): Promise<OpenRecognition | null> {
  const { rows } = await sql<Omit<OpenRecognition, 'credentials'> & { credentialIds: number[] }>`
    update recognition set started_at = now(), done = 0, found = '[]'
    where id = (
      select id from recognition
      where finished_at is null and (started_at is null or started_at < now() - make_interval(secs => ${ABANDONED_S}))
      order by requested_at limit 1 for update skip locked
    ) returning id, hosts, tcp_ports as "tcpPorts", udp_ports as "udpPorts", credential_ids as "credentialIds"`.execute(
    db,
  )
  const row = rows[0]
  if (row === undefined) return null
  return { ...row, credentials: await openCredentials(db, key, row.credentialIds) }
}

async function openCredentials(
  db: Db,
  key: SecretKey,
  ids: readonly number[],
): Promise<OpenRecognition['credentials']> {
  if (ids.length === 0) return []
  const kept = await db
    .selectFrom('credential')
    .select(['id', 'kind', 'sealed', 'hosts', 'inClear'])
    .where('id', 'in', ids)
    .orderBy('id')
    .execute()
  return kept.map(({ sealed, ...rest }) => ({ ...rest, secret: unseal(key, sealed) }))
}

/** How far it is, for the screen that waits. */
export async function recordRecognition(
  db: Db,
  id: string,
  { done, found, isOver }: { done: number; found: readonly Recognised[]; isOver: boolean },
): Promise<void> {
  await db
    .updateTable('recognition')
    .set({ done, found: JSON.stringify(found), ...(isOver ? { finishedAt: new Date() } : {}) })
    .where('id', '=', id)
    .execute()
  await announce(db, { topic: 'checks', id })
}
