import { sql } from 'kysely'
import type { Severity } from '#core/rules'
import type { Db } from '../platform/connect.ts'

const listing = (db: Db) =>
  db
    .selectFrom('alert')
    .leftJoin('gear', 'gear.id', 'alert.gearId')
    .leftJoin('part', 'part.id', 'alert.partId')
    .leftJoin('source', 'source.id', 'alert.sourceId')
    .leftJoin('series', 'series.id', 'alert.seriesId')
    .select([
      'alert.id',
      'alert.ruleKey',
      'alert.seriesId',
      'alert.sourceId',
      'alert.gearId',
      'alert.partId',
      'alert.measure',
      'alert.severity',
      'alert.title',
      'alert.reason',
      'alert.value',
      'alert.sinceAt',
      'alert.openedAt',
      'alert.clearedAt',
      'alert.clearedReason',
      'alert.takenAt',
      'alert.takenBy',
      'alert.quietId',
      'alert.causeId',
      'alert.causePath',
      'alert.consequence',
      'alert.flaps',
      'alert.line',
      'alert.subject',
      'gear.name as gearName',
      'gear.kind as gearKind',
      'gear.unit',
      'gear.heightUnits',
      'part.name as partName',
      'part.kind as partKind',
      'source.name as sourceName',
      'series.sourceId as readerId',
      // Not joined: with each table joined, planning takes twice as long, and it takes longer than running.
      (eb) =>
        eb.selectFrom('rack').select('rack.name').whereRef('rack.id', '=', 'gear.rackId').as('rackName'),
      // Of what stands in no rack.
      (eb) =>
        eb
          .selectFrom('floorPlace')
          .innerJoin('room', 'room.id', 'floorPlace.roomId')
          .select('room.name')
          .whereRef('floorPlace.gearId', '=', 'gear.id')
          .as('floorName'),
      // Name by name: joined, it reads all gear for each alert.
      sql<string | null>`(
        select min((select name from gear other where other.id = link.from_gear_id and other.kind = 'server'))
        from link where link.to_gear_id = gear.id and link.kind in ('hosts', 'stores-on'))`.as('onName'),
    ])

export const listOpenAlerts = (db: Db) =>
  listing(db).where('alert.clearedAt', 'is', null).orderBy('alert.openedAt', 'desc').execute()

/** Open or closed alerts of one gear that touched a span, newest first. */
export const listAlertsOfGear = (db: Db, gearId: number, from: Date, to: Date) =>
  listing(db)
    .where('alert.gearId', '=', gearId)
    .where('alert.openedAt', '<=', to)
    .where((eb) => eb.or([eb('alert.clearedAt', 'is', null), eb('alert.clearedAt', '>=', from)]))
    .orderBy('alert.openedAt', 'desc')
    .limit(200)
    .execute()

/** When alerts on some series were open within a span. */
export const alertSpans = (db: Db, seriesIds: readonly number[], from: Date, to: Date) =>
  db
    .selectFrom('alert')
    .select(['id', 'seriesId', 'severity', 'title', 'sinceAt', 'clearedAt'])
    .where(sql<boolean>`series_id = any(${[...seriesIds]}::int[])`)
    .where('openedAt', '<=', to)
    .where((eb) => eb.or([eb('clearedAt', 'is', null), eb('clearedAt', '>=', from)]))
    .orderBy('openedAt')
    .limit(400)
    .execute()

export type ListedAlert = Awaited<ReturnType<typeof listOpenAlerts>>[number]

/** Who was told of each alert, oldest first. `sentAt` is `null` while the message waits. */
export function messagesOf(db: Db, alertIds: readonly number[]) {
  if (alertIds.length === 0) return Promise.resolve([])
  return db
    .selectFrom('message')
    .select([
      'id',
      'alertId',
      'team',
      'action',
      'sentAt',
      'createdAt',
      'dueAt',
      'answer',
      'attempts',
      'subject',
      'skipped',
      'isFailed',
      'event',
    ])
    .where('alertId', 'in', [...alertIds])
    .orderBy('createdAt')
    .orderBy('callOutId')
    .orderBy('step')
    .execute()
}

/** Alerts that cleared since an instant, newest first. */
export async function listCleared(db: Db, since: Date, most: number) {
  const rows = await db
    .selectFrom('alert')
    .select(['id', 'title', 'gearId', 'partId', 'openedAt', 'clearedAt', 'takenBy'])
    .where('clearedAt', '>', since)
    .orderBy('clearedAt', 'desc')
    .limit(most)
    .execute()
  return rows.flatMap(({ clearedAt, ...row }) => (clearedAt === null ? [] : [{ ...row, clearedAt }]))
}

export const ALERT_STATES = ['open', 'taken', 'quiet', 'cleared', 'all'] as const
export type AlertState = (typeof ALERT_STATES)[number]

export interface AlertFilter {
  readonly state: AlertState
  readonly severity: Severity | null
  /** Words that must all stand in the title, the reason or the name of the gear. */
  readonly words: readonly string[]
  readonly ruleKey: string | null
  readonly gearId: number | null
  /** What was open at any time within. */
  readonly fromMs: number
  readonly toMs: number
}

const likeness = (word: string): string => `%${word.replaceAll(/[\\%_]/g, '\\$&')}%`

/** @param gearIds of each word: gear that has it in its name */
function filtered(db: Db, filter: AlertFilter, gearIds: readonly (readonly number[])[]) {
  const { state, severity, words, ruleKey, gearId } = filter
  let query = listing(db)
  if (state === 'open') query = query.where('alert.clearedAt', 'is', null).where('alert.quietId', 'is', null)
  if (state === 'taken')
    query = query.where('alert.clearedAt', 'is', null).where('alert.takenAt', 'is not', null)
  if (state === 'quiet')
    query = query.where('alert.clearedAt', 'is', null).where('alert.quietId', 'is not', null)
  if (state === 'cleared') query = query.where('alert.clearedAt', '>=', new Date(filter.fromMs))
  if (state === 'all')
    query = query.where((eb) =>
      eb.or([eb('alert.clearedAt', 'is', null), eb('alert.clearedAt', '>=', new Date(filter.fromMs))]),
    )
  if (state === 'cleared' || state === 'all')
    query = query.where('alert.openedAt', '<=', new Date(filter.toMs))
  if (severity !== null) query = query.where('alert.severity', '=', severity)
  if (ruleKey !== null) query = query.where('alert.ruleKey', '=', ruleKey)
  if (gearId !== null) query = query.where('alert.gearId', '=', gearId)
  for (const [index, word] of words.entries())
    query = query.where(
      sql<boolean>`((alert.title || ' ' || alert.reason) ilike ${likeness(word)}
        or alert.gear_id = any(${[...(gearIds[index] ?? [])]}::int[]))`,
    )
  return query
}

/** A page of alerts, newest first. @param beforeId of the page before: the last alert that stood on it */
export async function listAlerts(db: Db, filter: AlertFilter, beforeId: number | null, most: number) {
  const gearIds = await Promise.all(
    filter.words.map(async (word) =>
      (await db.selectFrom('gear').select('id').where('name', 'ilike', likeness(word)).execute()).map(
        ({ id }) => id,
      ),
    ),
  )
  let query = filtered(db, filter, gearIds)
  if (beforeId !== null)
    query = query.where(
      sql<boolean>`(alert.opened_at, alert.id) < (select opened_at, id from alert where id = ${beforeId})`,
    )
  return query.orderBy('alert.openedAt', 'desc').orderBy('alert.id', 'desc').limit(most).execute()
}

export const findAlert = (db: Db, id: number): Promise<ListedAlert | undefined> =>
  listing(db).where('alert.id', '=', id).executeTakeFirst()

/** Alerts by their ids, newest first. */
export const alertsByIds = (db: Db, ids: readonly number[]): Promise<ListedAlert[]> =>
  ids.length === 0
    ? Promise.resolve([])
    : listing(db)
        .where('alert.id', 'in', [...ids])
        .orderBy('alert.openedAt', 'desc')
        .execute()

/** Which of some alerts cleared since an instant. */
export async function clearedSince(db: Db, ids: readonly number[], since: Date): Promise<Set<number>> {
  if (ids.length === 0) return new Set()
  const rows = await db
    .selectFrom('alert')
    .select('id')
    .where('id', 'in', [...new Set(ids)])
    .where('clearedAt', '>=', since)
    .execute()
  return new Set(rows.map(({ id }) => id))
}

/**
 * How many alerts there are in each state; those that cleared, since an instant. What is open and stands under an open
 * alert that explains it is `following`, and not `open`.
 */
export async function countAlerts(db: Db, fromMs: number) {
  const isOpen = sql`cleared_at is null and quiet_id is null`
  const follows = sql`exists (select from alert cause where cause.id = alert.cause_id
    and cause.cleared_at is null and cause.quiet_id is null)`
  const { rows } = await sql<
    Record<'open' | 'following' | 'critical' | 'taken' | 'quiet' | 'cleared' | 'opened', number>
  >`
    select
      count(*) filter (where ${isOpen} and not ${follows})::int as open,
      count(*) filter (where ${isOpen} and ${follows})::int as following,
      count(*) filter (where ${isOpen} and not ${follows} and severity = 'critical')::int as critical,
      count(*) filter (where cleared_at is null and taken_at is not null)::int as taken,
      count(*) filter (where cleared_at is null and quiet_id is not null)::int as quiet,
      count(*) filter (where cleared_at >= ${new Date(fromMs)})::int as cleared,
      count(*) filter (where opened_at >= ${new Date(fromMs)})::int as opened
    from alert where cleared_at is null or cleared_at >= ${new Date(fromMs)} or opened_at >= ${new Date(fromMs)}`.execute(
    db,
  )
  return rows[0]!
}

/** How often each trouble, a rule on a subject, opened since an instant, and for how long in all; ms. */
export async function repeatsOf(
  db: Db,
  alertIds: readonly number[],
  fromMs: number,
): Promise<Map<number, { times: number; forMs: number }>> {
  if (alertIds.length === 0) return new Map()
  const { rows } = await sql<{ id: number; times: number; forMs: number }>`
    select shown.id, sum(1 + greatest(other.flaps - 1, 0))::int as times,
      coalesce(sum(extract(epoch from coalesce(other.cleared_at, now()) - other.opened_at)), 0)::float8 * 1000 as "forMs"
    from alert shown join alert other on other.rule_key = shown.rule_key and other.subject = shown.subject
    where shown.id = any(${[...alertIds]}::int[]) and other.opened_at >= ${new Date(fromMs)}
    group by shown.id`.execute(db)
  return new Map(rows.map(({ id, times, forMs }) => [id, { times, forMs }]))
}

export const followOnsOf = (db: Db, causeIds: readonly number[]) =>
  causeIds.length === 0
    ? Promise.resolve([])
    : db
        .selectFrom('alert')
        .select(['id', 'causeId', 'title', 'causePath', 'severity', 'clearedAt', 'openedAt'])
        .where('causeId', 'in', [...causeIds])
        .orderBy('openedAt')
        .execute()

export const eventsOf = (db: Db, alertId: number) =>
  db
    .selectFrom('alertEvent')
    .select(['id', 'at', 'what', 'who', 'text'])
    .where('alertId', '=', alertId)
    .orderBy('at')
    .orderBy('id')
    .execute()

/** Where a gear of that name in the query stands, in a rack or on the floor. */
const roomOf = (gear: string) =>
  sql.raw(`coalesce((select rack.room_id from rack where rack.id = ${gear}.rack_id),
    (select floor_place.room_id from floor_place where floor_place.gear_id = ${gear}.id))`)

/** Other alerts of the same gear or source, or in the same room, that opened within so long of one. */
export async function alertsAround(db: Db, id: number, withinMs: number, most: number) {
  const { rows } = await sql<{
    id: number
    title: string
    severity: Severity
    openedAt: Date
    clearedAt: Date | null
  }>`
    select other.id, other.title, other.severity, other.opened_at as "openedAt", other.cleared_at as "clearedAt"
    from alert this join alert other on other.id <> this.id
      and other.opened_at between this.opened_at - ${withinMs} * interval '1 ms' and this.opened_at + ${withinMs} * interval '1 ms'
    left join gear this_gear on this_gear.id = this.gear_id
    left join gear other_gear on other_gear.id = other.gear_id
    where this.id = ${id} and other.cause_id is distinct from this.id
      and (other.gear_id = this.gear_id or other.source_id = this.source_id
        or exists (select 1 from sighting where sighting.gear_id = other.gear_id and sighting.source_id = this.source_id)
        or exists (select 1 from sighting where sighting.gear_id = this.gear_id and sighting.source_id = other.source_id)
        or ${roomOf('this_gear')} = ${roomOf('other_gear')})
    order by abs(extract(epoch from other.opened_at - this.opened_at)), other.id limit ${most}`.execute(db)
  return rows
}

/** Opened before, of the same rule on the same subject; the newest first. */
export const earlierOf = (db: Db, id: number, most: number) =>
  db
    .selectFrom('alert as other')
    .innerJoin('alert as shown', (join) =>
      join
        .onRef('other.ruleKey', '=', 'shown.ruleKey')
        .onRef('other.subject', '=', 'shown.subject')
        .onRef('other.openedAt', '<', 'shown.openedAt'),
    )
    .select([
      'other.id',
      'other.openedAt',
      'other.clearedAt',
      'other.severity',
      'other.takenBy',
      'other.flaps',
    ])
    .where('shown.id', '=', id)
    .orderBy('other.openedAt', 'desc')
    .limit(most)
    .execute()

/** How many alerts of each rule are open, and how many opened since an instant. */
export async function countAlertsByRule(
  db: Db,
  since: Date,
): Promise<Map<string, { readonly open: number; readonly opened: number }>> {
  const rows = await db
    .selectFrom('alert')
    .select(['ruleKey'])
    .select((eb) => [
      eb.fn.countAll<string>().filterWhere('clearedAt', 'is', null).as('open'),
      eb.fn.countAll<string>().filterWhere('openedAt', '>', since).as('opened'),
    ])
    .groupBy('ruleKey')
    .execute()
  return new Map(
    rows.map(({ ruleKey, open, opened }) => [ruleKey, { open: Number(open), opened: Number(opened) }]),
  )
}

/** What is open and quiet, with what keeps it so. */
export const listQuietAlerts = (db: Db) =>
  db
    .selectFrom('alert')
    .select(['quietId', 'id', 'title'])
    .where('clearedAt', 'is', null)
    .where('quietId', 'is not', null)
    .orderBy('id')
    .execute()
