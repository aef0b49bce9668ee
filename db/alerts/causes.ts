import { sql } from 'kysely'
import { roleOfPart } from '#core/catalogue'
import type { Cause, CausedAlert, CauseGear, CauseLink } from '#core/alerts'
import type { Severity } from '#core/rules'
import { recordEvent } from './alerts.ts'
import { listGearScopes } from '../rules/subjects.ts'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'

export const BLIND_RULE = 'blind'

/** Who reads a source; what is pushed to us counts as read by one. */
export const READER = sql.raw(
  `coalesce(source.lease_holder, case when source.protocol = 'otlp' then 'pushes' else 'nobody' end)`,
)

export interface OpenCaused extends CausedAlert {
  readonly causeId: number | null
  readonly causePath: string | null
  readonly consequence: string | null
  readonly seriesId: number | null
  readonly title: string
  readonly reason: string
  readonly severity: Severity
  /** What it is told apart by from the others of its gear. */
  readonly key: string
  readonly gearName: string | null
}

/** Open alerts as they are looked at for causes, and those that ended since an instant as causes of what began in them. */
export async function listCaused(db: Db, endedSince: Date): Promise<OpenCaused[]> {
  const { rows } = await sql<{
    id: number
    measure: OpenCaused['measure']
    ruleKey: string
    gearIds: number[]
    partId: number | null
    partKind: OpenCaused['partKind']
    context: string | null
    sourceId: number | null
    subject: string
    openedMs: number
    sinceMs: number
    endedAtMs: number | null
    causeId: number | null
    causePath: string | null
    consequence: string | null
    value: number | null
    seriesId: number | null
    title: string
    reason: string
    severity: Severity
    gearName: string | null
  }>`
    select alert.id, alert.measure, alert.rule_key as "ruleKey", alert.part_id as "partId", part.kind as "partKind",
      part.facts ->> 'context' as context,
      alert.source_id as "sourceId", alert.subject, alert.cause_id as "causeId", alert.cause_path as "causePath",
      alert.consequence, alert.value, alert.series_id as "seriesId", alert.title, alert.reason, alert.severity, gear.name as "gearName",
      extract(epoch from alert.opened_at)::float8 * 1000 as "openedMs",
      extract(epoch from alert.since_at)::float8 * 1000 as "sinceMs",
      extract(epoch from alert.cleared_at)::float8 * 1000 as "endedAtMs",
      case when alert.gear_id is not null then array[alert.gear_id]
        else array(select gear_id from sighting where sighting.source_id = alert.source_id order by 1) end as "gearIds"
    from alert left join part on part.id = alert.part_id left join gear on gear.id = alert.gear_id
    where alert.cleared_at is null or alert.cleared_at > ${endedSince} order by alert.id`.execute(db)
  const readers = rows.some(({ ruleKey }) => ruleKey === BLIND_RULE)
    ? (await sql<{ id: number; reader: string }>`select id, ${READER} as reader from source`.execute(db)).rows
    : []
  return rows.map(({ openedMs, subject, context, ...row }) => {
    const isBlind = row.ruleKey === BLIND_RULE
    return {
      ...row,
      role: roleOfPart(row.partKind, context),
      openedAtMs: openedMs,
      key: `${row.ruleKey} ${subject}`,
      isBlind,
      isOfPushes: isBlind && subject === 'collector pushes',
      sourceIds: isBlind
        ? readers.flatMap(({ id, reader }) => (subject === `collector ${reader}` ? [id] : []))
        : [],
    }
  })
}

/** Gear and links between them, as far as one can be the cause of another's trouble. */
export async function listCauseGraph(db: Db): Promise<{ gear: Map<number, CauseGear>; links: CauseLink[] }> {
  const [scopes, gear, links] = await Promise.all([
    listGearScopes(db),
    db
      .selectFrom('gear')
      .leftJoin('rack', 'rack.id', 'gear.rackId')
      .leftJoin('floorPlace', 'floorPlace.gearId', 'gear.id')
      .select(['gear.id', 'gear.name', 'gear.kind'])
      .select((eb) => [
        eb.fn.coalesce('rack.roomId', 'floorPlace.roomId').as('roomId'),
        sql<number | null>`(
          select extract(epoch from max(source.last_heard_at))::float8 * 1000
          from sighting join source on source.id = sighting.source_id where sighting.gear_id = gear.id)`.as(
          'heardAtMs',
        ),
      ])
      .where('gear.mergedInto', 'is', null)
      .execute(),
    db
      .selectFrom('link')
      .select(['kind', 'fromGearId', 'toGearId', 'fromPartId', 'toPartId'])
      .orderBy('id')
      .execute(),
  ])
  const placed = gear.map((each) => {
    const { rackId = null, role = null } = scopes.get(each.id) ?? {}
    return { ...each, rackId, role }
  })
  return { gear: new Map(placed.map((each) => [each.id, each])), links }
}

/** Notes what an alert follows from, or that it follows from nothing any more. */
export async function writeCause(
  db: Db,
  alertId: number,
  cause: Cause | null,
  causeTitle: string,
  at: Date,
): Promise<void> {
  await within(db, async (trx) => {
    await trx
      .updateTable('alert')
      .set({ causeId: cause?.causeId ?? null, causePath: cause?.path ?? null })
      .where('id', '=', alertId)
      .execute()
    const text =
      cause === null
        ? 'Its cause has gone, and it still holds.'
        : `It follows from “${causeTitle}”: ${cause.path}.`
    const what = cause === null ? 'stands alone' : 'follows'
    await recordEvent(trx, alertId, { at, what, who: null, text })
    await announce(trx, { topic: 'alerts' })
  })
}

export async function writeConsequence(db: Db, alertId: number, consequence: string): Promise<void> {
  await db.updateTable('alert').set({ consequence }).where('id', '=', alertId).execute()
  await announce(db, { topic: 'alerts' })
}

/** How many of the sources of one reader are silent. */
export interface ReaderSilence {
  readonly reader: string
  readonly total: number
  /** Ids of sources. */
  readonly silent: readonly number[]
  readonly sinceMs: number | null
  /** When any of them was heard last, and the shortest interval among them; ms. */
  readonly newestMs: number | null
  readonly shortestMs: number
}

export async function silenceByReader(db: Db): Promise<ReaderSilence[]> {
  const { rows } = await sql<ReaderSilence>`
    select ${READER} as reader,
      count(*)::int as total,
      coalesce(array_agg(source.id order by source.id) filter (where alert.id is not null), '{}') as silent,
      extract(epoch from min(alert.since_at))::float8 * 1000 as "sinceMs",
      extract(epoch from max(source.last_heard_at))::float8 * 1000 as "newestMs",
      min(source.interval_seconds) * 1000 as "shortestMs"
    from source left join alert on alert.source_id = source.id and alert.series_id is null and alert.cleared_at is null
    group by 1`.execute(db)
  return rows
}

/** An open alert that is not quiet and of which nobody was told, nor is about to be; `null` when it is otherwise. */
export async function unnotifiedAlert(
  trx: Db,
  alertId: number,
  atMs: number,
): Promise<{ reason: string } | null> {
  const row = await trx
    .selectFrom('alert')
    .select(['reason', 'quietId', 'clearedAt'])
    .where('id', '=', alertId)
    .executeTakeFirst()
  if (row === undefined || row.clearedAt !== null || row.quietId !== null) return null
  const told = await trx
    .selectFrom('message')
    .select('id')
    .where('alertId', '=', alertId)
    .where('skipped', 'is', null)
    .where('dueAt', '<=', new Date(atMs))
    .executeTakeFirst()
  return told === undefined ? row : null
}
