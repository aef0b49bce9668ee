import { sql } from 'kysely'
import { type Failure, rowsBack, type Slower, type SourceClock, type CredentialKind } from '#core/sources'
import type { Db } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import type { NewItems, SourceProtocol } from './tables.ts'
import { SealError, type SecretKey, seal, tokenHash, unseal } from './secrets.ts'

export interface SourceRow {
  readonly id: number
  readonly name: string
  readonly protocol: SourceProtocol
  readonly address: string
  readonly settings: Record<string, unknown>
  readonly intervalSeconds: number
  readonly createdAt: Date
  readonly lastAttemptAt: Date | null
  readonly lastHeardAt: Date | null
  readonly lastDurationMs: number | null
  readonly failure: Failure | null
  readonly failedAt: Date | null
  readonly failures: number
}

const sourceColumns = (db: Db) =>
  db
    .selectFrom('source')
    .leftJoin('credential', 'credential.id', 'source.credentialId')
    .select([
      'source.id',
      'source.name',
      'source.protocol',
      'source.address',
      'source.settings',
      'source.intervalSeconds',
      'source.newItems',
      'source.slower',
      'source.credentialId',
      'source.mappingId',
      'source.createdAt',
      'source.lastAttemptAt',
      'source.lastHeardAt',
      'source.lastDurationMs',
      'source.failure',
      'source.failedAt',
      'source.failures',
      'source.checkRequestedAt',
      'credential.name as credentialName',
    ])

export type ListedSource = SourceRow & {
  readonly slower: Slower
  readonly newItems: NewItems
  /** When somebody asked for it to be read at once, last. */
  readonly checkRequestedAt: Date | null
  readonly credentialId: number | null
  readonly credentialName: string | null
  readonly mappingId: number | null
}

/** Some sources, or all, by name; without anything secret. */
export const listSources = (db: Db, ids?: readonly number[]): Promise<ListedSource[]> =>
  sourceColumns(db)
    .$if(ids !== undefined, (query) => query.where(sql<boolean>`source.id = any(${[...ids!]}::int[])`))
    .orderBy('source.name')
    .execute()

export const findSource = (db: Db, id: number): Promise<ListedSource | undefined> =>
  sourceColumns(db).where('source.id', '=', id).executeTakeFirst()

/** A source as far as it has to be known whether it is heard. */
export interface SourceClockRow extends SourceClock {
  readonly id: number
  readonly name: string
}

const clocks = sql`
  select id, name, interval_seconds::float8 * 1000 as "intervalMs",
    (extract(epoch from created_at) * 1000)::float8 as "createdAtMs",
    (extract(epoch from last_heard_at) * 1000)::float8 as "lastHeardAtMs"
  from source`

/** Some sources, with no more than says how fresh they are. */
export async function listClocks(db: Db, ids: readonly number[]): Promise<SourceClockRow[]> {
  if (ids.length === 0) return []
  const { rows } = await sql<SourceClockRow>`${clocks} where id = any(${[...ids]}::int[])`.execute(
    db.withoutPlugins(),
  )
  return rows
}

/** Of thousands of sources the few that may be silent: those of which nothing was heard for longer than an interval. */
export async function listOverdue(db: Db, nowMs: number): Promise<SourceClockRow[]> {
  const { rows } = await sql<SourceClockRow>`${clocks}
    where coalesce(last_heard_at, created_at) + interval_seconds * interval '1 second' < to_timestamp(${nowMs / 1000}::float8)
    order by name`.execute(db.withoutPlugins())
  return rows
}

export interface SourceCount {
  readonly count: number
  readonly lastHeardAtMs: number | null
  /** Those whose last reading failed. */
  readonly failingIds: readonly number[]
}

/** All sources in a few numbers. */
export async function countSources(db: Db): Promise<SourceCount> {
  const { rows } = await sql<SourceCount>`
    select count(*)::int as count, (extract(epoch from max(last_heard_at)) * 1000)::float8 as "lastHeardAtMs",
      coalesce(array_agg(id) filter (where failure is not null), '{}') as "failingIds"
    from source`.execute(db.withoutPlugins())
  return rows[0]!
}

/** Which source tells of which gear, and by which key. */
export const listSightings = (db: Db) =>
  db.selectFrom('sighting').select(['sourceId', 'gearId', 'key']).execute()

/** The sources of what senders push, by the key under which they tell of their gear. */
export async function pushedKeys(db: Db): Promise<Map<string, number>> {
  const rows = await db
    .selectFrom('sighting')
    .innerJoin('source', 'source.id', 'sighting.sourceId')
    .select(['sighting.key', 'sighting.sourceId'])
    .where('source.tokenHash', 'is not', null)
    .execute()
  return new Map(rows.map(({ key, sourceId }) => [key, sourceId]))
}

/** How often each source is asked, or expected to push, in seconds. */
export async function listIntervals(db: Db): Promise<Map<number, number>> {
  const rows = await db.selectFrom('source').select(['id', 'intervalSeconds']).execute()
  return new Map(rows.map(({ id, intervalSeconds }) => [id, intervalSeconds]))
}

/** In seconds. */
export async function intervalOf(db: Db, sourceId: number): Promise<number> {
  const { intervalSeconds } = await db
    .selectFrom('source')
    .select('intervalSeconds')
    .where('id', '=', sourceId)
    .executeTakeFirstOrThrow()
  return intervalSeconds
}

/** Changes what people may change of a source; the collector takes it up at once. */
export async function updateSource(
  db: Db,
  id: number,
  change: {
    readonly name: string
    readonly intervalSeconds: number
    readonly newItems: NewItems
    readonly slower: Slower
  },
): Promise<void> {
  const { slower, ...rest } = change
  const latestRows = rowsBack(change.intervalSeconds, slower)
  await db
    .updateTable('source')
    .set({
      ...rest,
      slower: JSON.stringify(slower),
      latestRows: sql<number>`greatest(${latestRows}::int, case when protocol = 'otlp' then latest_rows else 1 end)`,
    })
    .where('id', '=', id)
    .execute()
  await announce(db, { topic: 'sources', sourceId: id })
}

/** How a source is asked becomes another: where, with what, and how its words are understood. Its history stays. */
export async function reconnectSource(
  db: Db,
  id: number,
  change: Pick<NewSource, 'name' | 'address' | 'settings' | 'intervalSeconds' | 'credentialId'> & {
    readonly newItems: NewItems
    readonly mappingId: number | null
  },
): Promise<void> {
  const { name, address, settings, intervalSeconds, newItems, credentialId, mappingId } = change
  const { slower } = await db
    .selectFrom('source')
    .select('slower')
    .where('id', '=', id)
    .executeTakeFirstOrThrow()
  await updateSource(db, id, { name, intervalSeconds, newItems, slower })
  await db
    .updateTable('source')
    .set({ address, settings: JSON.stringify(settings), credentialId, mappingId })
    .where('id', '=', id)
    .execute()
}

export const clockOf = (
  source: Pick<SourceRow, 'intervalSeconds' | 'createdAt' | 'lastHeardAt'>,
): SourceClock => ({
  intervalMs: source.intervalSeconds * 1000,
  createdAtMs: source.createdAt.getTime(),
  lastHeardAtMs: source.lastHeardAt?.getTime() ?? null,
})

/** Where a credential may go: hosts and networks; and why without TLS, `null` when it may not. */
export interface CredentialDestinations {
  readonly kind: CredentialKind
  readonly hosts: readonly string[]
  readonly inClear: string | null
}

/** A source with its credential opened: for the collector only. */
export interface OpenSource extends SourceRow {
  readonly slower: Slower
  readonly secret: Record<string, string>
  /** Where its credential may go; `null` when it has none. */
  readonly destinations: CredentialDestinations | null
  /** Its credential cannot be opened; `secret` is empty then, and it is not to be asked. */
  readonly isShut: boolean
  readonly tokenHash: Buffer | null
}

export async function openSources(db: Db, key: SecretKey): Promise<OpenSource[]> {
  const rows = await db
    .selectFrom('source')
    .leftJoin('credential', 'credential.id', 'source.credentialId')
    .leftJoin('mapping', 'mapping.id', 'source.mappingId')
    .selectAll('source')
    .select([
      'credential.sealed',
      'credential.kind as credentialKind',
      'credential.hosts',
      'credential.inClear',
      'mapping.body as map',
    ])
    .execute()
  return rows.map(({ sealed, map, credentialKind: kind, hosts, inClear, ...row }) => ({
    ...row,
    destinations: kind === null ? null : { kind, hosts: hosts ?? [], inClear },
    settings: map === null ? row.settings : { ...row.settings, map },
    ...opened(key, sealed),
  }))
}

/** One credential that cannot be opened concerns its own sources only. */
function opened(key: SecretKey, sealed: Buffer | null): Pick<OpenSource, 'secret' | 'isShut'> {
  if (sealed === null) return { secret: {}, isShut: false }
  try {
    return { secret: unseal(key, sealed), isShut: false }
  } catch (error) {
    if (!(error instanceof SealError)) throw error
    return { secret: {}, isShut: true }
  }
}

/** How many credentials the key of this installation does not open. */
export async function countShut(db: Db, key: SecretKey): Promise<number> {
  const rows = await db.selectFrom('credential').select('sealed').execute()
  return rows.filter(({ sealed }) => opened(key, sealed).isShut).length
}

export interface NewSource {
  readonly name: string
  readonly protocol: SourceProtocol
  readonly address: string
  readonly settings: Record<string, unknown>
  readonly intervalSeconds: number
  readonly newItems?: NewItems
  readonly credentialId: number | null
  readonly mappingId?: number | null
  readonly token: string | null
  /** Instead of the token, where only its hash is known. */
  readonly tokenHash?: Buffer
}

export async function insertSource(
  db: Db,
  { token, tokenHash: hash, settings, ...rest }: NewSource,
): Promise<number> {
  const { id } = await db
    .insertInto('source')
    .values({
      ...rest,
      settings: JSON.stringify(settings),
      tokenHash: hash ?? (token === null ? null : tokenHash(token)),
    })
    .returning('id')
    .executeTakeFirstOrThrow()
  await announce(db, { topic: 'sources', sourceId: id })
  return id
}

/** A sender brings now these series, now those: what is newest of each may stand some rows back. */
export async function lookFurtherBack(db: Db, sourceId: number): Promise<void> {
  await db
    .updateTable('source')
    .set({ latestRows: SPLIT_ROWS })
    .where('id', '=', sourceId)
    .where('latestRows', '<', SPLIT_ROWS)
    .execute()
}
const SPLIT_ROWS = 16

export async function deleteSource(db: Db, id: number): Promise<void> {
  await db.deleteFrom('source').where('id', '=', id).execute()
  await announce(db, { topic: 'sources', sourceId: id })
}

export async function insertCredential(
  db: Db,
  key: SecretKey,
  credential: {
    name: string
    kind: CredentialKind
    secret: Record<string, string>
    hosts: readonly string[]
    inClear?: string | null
  },
): Promise<number> {
  const { id } = await db
    .insertInto('credential')
    .values({
      name: credential.name,
      kind: credential.kind,
      sealed: seal(key, credential.secret),
      hosts: [...credential.hosts],
      inClear: credential.inClear ?? null,
    })
    .returning('id')
    .executeTakeFirstOrThrow()
  return id
}

export interface ListedCredential extends CredentialDestinations {
  readonly id: number
  readonly name: string
}

export function listCredentials(db: Db): Promise<ListedCredential[]> {
  return db
    .selectFrom('credential')
    .select(['id', 'name', 'kind', 'hosts', 'inClear'])
    .orderBy('name')
    .execute()
}

/** Credentials with who uses them; nothing secret. */
export async function credentialUses(
  db: Db,
): Promise<(ListedCredential & { sources: { id: number; name: string }[] })[]> {
  const sources = await db
    .selectFrom('source')
    .select(['id', 'name', 'credentialId'])
    .where('credentialId', 'is not', null)
    .orderBy('name')
    .execute()
  return (await listCredentials(db)).map((credential) => ({
    ...credential,
    sources: sources
      .filter((source) => source.credentialId === credential.id)
      .map(({ id, name }) => ({ id, name })),
  }))
}

/** Gives a credential another name, other destinations, or another secret (`null` leaves it); all its sources go by it from now on. */
export async function updateCredential(
  db: Db,
  key: SecretKey,
  change: {
    id: number
    name: string
    secret: Record<string, string> | null
    hosts: readonly string[]
    inClear: string | null
  },
): Promise<void> {
  await db
    .updateTable('credential')
    .set({
      name: change.name,
      hosts: [...change.hosts],
      inClear: change.inClear,
      ...(change.secret === null ? {} : { sealed: seal(key, change.secret) }),
    })
    .where('id', '=', change.id)
    .execute()
  // Any source will do: the collector reads all of them again.
  await announce(db, { topic: 'sources', sourceId: 0 })
}

/** @returns false when some source uses it */
export async function deleteCredential(db: Db, id: number): Promise<boolean> {
  const { rows } = await sql<{ id: number }>`
    delete from credential where id = ${id} and not exists (select 1 from source where credential_id = ${id})
    returning id`.execute(db)
  return rows.length > 0
}

export interface Heard {
  readonly sourceId: number
  readonly at: Date
  readonly durationMs: number | null
  /** It waited on disk: it takes nothing back of what was heard since. */
  readonly isLate?: boolean
}

/**
 * Sources were heard; what failed before is wiped. Of several times for one source the newest counts. What is heard just
 * now counts also when it seems older than what was heard before: then the clock was set back.
 */
export async function recordHeard(db: Db, heard: readonly Heard[]): Promise<void> {
  await sql`
    update source set last_heard_at = at, last_attempt_at = at, last_duration_ms = duration,
      failure = null, failed_at = null, failures = 0
    from (
      select distinct on (id) * from unnest(
        ${heard.map((each) => each.sourceId)}::int[],
        ${heard.map((each) => each.at)}::timestamptz[],
        ${heard.map((each) => each.durationMs)}::int[],
        ${heard.map((each) => each.isLate ?? false)}::boolean[]
      ) as heard (id, at, duration, is_late) order by id, at desc
    ) newest
    where source.id = newest.id and (not is_late or last_heard_at is null or last_heard_at <= at)`.execute(db)
}

export async function recordFailure(db: Db, sourceId: number, at: Date, failure: Failure): Promise<void> {
  await db
    .updateTable('source')
    .set((eb) => ({
      lastAttemptAt: at,
      failure: JSON.stringify(failure),
      failedAt: at,
      failures: eb('failures', '+', 1),
    }))
    .where('id', '=', sourceId)
    .execute()
  await announce(db, { topic: 'sources', sourceId })
}

/** Asks the collector to read a source now. @returns false when there is no such source. */
export async function requestCheck(db: Db, sourceId: number, at: Date): Promise<boolean> {
  const row = await db
    .updateTable('source')
    .set({ checkRequestedAt: at })
    .where('id', '=', sourceId)
    .returning('id')
    .executeTakeFirst()
  if (row === undefined) return false
  await announce(db, { topic: 'check', sourceId })
  return true
}

/** What is asked so long ago is asked again at most. */
const ASKED_AGAIN_MS = 20_000
const MOST_ASKED = 32

/**
 * Asks the collectors to read what tells of some gear now, where it was not heard since an instant, and was not asked just
 * before. @returns the ids of the sources
 */
export async function requestChecksOf(
  db: Db,
  gearIds: readonly number[],
  { sinceMs, atMs }: { readonly sinceMs: number; readonly atMs: number },
): Promise<number[]> {
  if (gearIds.length === 0) return []
  const rows = await db
    .updateTable('source')
    .set({ checkRequestedAt: new Date(atMs) })
    .where('id', 'in', (eb) =>
      eb
        .selectFrom('sighting')
        .innerJoin('source as told', 'told.id', 'sighting.sourceId')
        .select('told.id')
        .where('sighting.gearId', 'in', [...gearIds])
        .where('told.lastHeardAt', '<', new Date(sinceMs))
        .where((is) =>
          is.or([
            is('told.checkRequestedAt', 'is', null),
            is('told.checkRequestedAt', '<', new Date(atMs - ASKED_AGAIN_MS)),
          ]),
        )
        .limit(MOST_ASKED),
    )
    .returning('id')
    .execute()
  for (const { id } of rows) await announce(db, { topic: 'check', sourceId: id })
  return rows.map(({ id }) => id)
}

/** The gear that a source told of first; `null` while it has told of none. */
export async function firstGearOf(db: Db, sourceId: number): Promise<number | null> {
  const first = await db
    .selectFrom('sighting')
    .select('gearId')
    .where('sourceId', '=', sourceId)
    .orderBy('gearId')
    .executeTakeFirst()
  return first?.gearId ?? null
}
