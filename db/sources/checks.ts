import { sql } from 'kysely'
import type { Certificate, Failure, StageReport, Told } from '#core/sources'
import type { Findings } from '#core/gear'
import type { CredentialDestinations } from './sources.ts'
import type { Db } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import type { SourceProtocol } from './tables.ts'
import { type SecretKey, seal, unseal } from './secrets.ts'

/** What a check is asked of. A typed secret is sealed, and goes when the check is an hour old. */
export interface NewCheck {
  readonly requestedBy: string
  readonly sourceId: number | null
  readonly protocol: SourceProtocol
  readonly address: string
  readonly settings: Record<string, unknown>
  readonly credentialId: number | null
  readonly secret: Record<string, string> | null
}

/** A check as a screen shows it: nothing secret. */
export interface CheckRow {
  readonly id: string
  readonly requestedAt: Date
  readonly sourceId: number | null
  readonly protocol: SourceProtocol
  readonly address: string
  readonly settings: Record<string, unknown>
  readonly credentialId: number | null
  readonly hasOwnSecret: boolean
  readonly startedAt: Date | null
  readonly finishedAt: Date | null
  readonly stages: readonly StageReport[]
  readonly certificate: Certificate | null
  readonly findings: Findings | null
  readonly failure: Failure | null
  readonly told: Told | null
}

/** Asks for a check; some collector does it. @returns its id */
export async function requestCheckRun(db: Db, key: SecretKey, check: NewCheck): Promise<string> {
  await sql`delete from check_run where requested_at < now() - interval '1 hour'`.execute(db)
  const { secret, settings, ...rest } = check
  const { id } = await db
    .insertInto('checkRun')
    .values({
      ...rest,
      settings: JSON.stringify(settings),
      sealed: secret === null ? null : seal(key, secret),
    })
    .returning('id')
    .executeTakeFirstOrThrow()
  await announce(db, { topic: 'checks', id })
  return id
}

export async function findCheck(db: Db, id: string): Promise<CheckRow | undefined> {
  const row = await db.selectFrom('checkRun').selectAll().where('id', '=', id).executeTakeFirst()
  if (row === undefined) return undefined
  const { sealed, ...rest } = row
  return { ...rest, hasOwnSecret: sealed !== null }
}

/** The secret that was typed for a check, for keeping it under a name. */
export async function secretOfCheck(
  db: Db,
  key: SecretKey,
  id: string,
): Promise<Record<string, string> | null> {
  const row = await db.selectFrom('checkRun').select('sealed').where('id', '=', id).executeTakeFirst()
  return row?.sealed == null ? null : unseal(key, row.sealed)
}

/** A check that a collector has taken, with its secret opened. */
export interface OpenCheck {
  readonly id: string
  readonly protocol: SourceProtocol
  readonly address: string
  readonly settings: Record<string, unknown>
  readonly secret: Record<string, string>
  /** Of a credential that is kept, where it may go. */
  readonly destinations: CredentialDestinations | null
}

const ABANDONED_S = 120

/** The oldest check that nobody does, for whoever asks first; one whose collector died is done again. */
export async function takeCheck(db: Db, key: SecretKey): Promise<OpenCheck | null> {
  const { rows } = await sql<Omit<OpenCheck, 'secret'> & { sealed: Buffer | null; kept: Buffer | null }>`
    update check_run set started_at = now()
    where id = (
      select id from check_run
      where started_at is null
        or (finished_at is null and started_at < now() - make_interval(secs => ${ABANDONED_S}))
      order by requested_at limit 1 for update skip locked
    )
    returning id, protocol, address, settings, sealed,
      (select credential.sealed from credential where credential.id = check_run.credential_id) as kept,
      (select json_build_object('kind', kind, 'hosts', hosts, 'inClear', in_clear) from credential
        where credential.id = check_run.credential_id) as destinations`.execute(db)
  const row = rows[0]
  if (row === undefined) return null
  const { sealed, kept, ...rest } = row
  const bytes = sealed ?? kept
  return { ...rest, secret: bytes === null ? {} : unseal(key, bytes) }
}

export interface CheckEnd {
  readonly stages: readonly StageReport[]
  readonly certificate: Certificate | null
  readonly findings: Findings | null
  readonly failure: Failure | null
  readonly told: Told | null
}

/** How far a check is, for the screens that wait for it. */
export async function recordStages(
  db: Db,
  id: string,
  stages: readonly StageReport[],
  certificate: Certificate | null,
): Promise<void> {
  await db
    .updateTable('checkRun')
    .set({
      stages: JSON.stringify(stages),
      certificate: certificate === null ? null : JSON.stringify(certificate),
    })
    .where('id', '=', id)
    .where('finishedAt', 'is', null)
    .execute()
  await announce(db, { topic: 'checks', id })
}

export async function finishCheck(db: Db, id: string, result: CheckEnd): Promise<void> {
  const json = (value: unknown): string | null => (value === null ? null : JSON.stringify(value))
  await db
    .updateTable('checkRun')
    .set({
      stages: JSON.stringify(result.stages),
      certificate: json(result.certificate),
      findings: json(result.findings),
      failure: json(result.failure),
      told: json(result.told),
      finishedAt: new Date(),
    })
    .where('id', '=', id)
    .execute()
  await announce(db, { topic: 'checks', id })
}

export async function forgetCheck(db: Db, id: string): Promise<void> {
  await db.deleteFrom('checkRun').where('id', '=', id).execute()
}
