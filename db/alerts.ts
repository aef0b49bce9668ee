import { sql } from 'kysely'
import type { MeasureKey } from '#core/measures'
import type { Severity } from '#core/rules'
import type { Db } from './connect.ts'
import { announce } from './live.ts'

export interface NewAlert {
  readonly ruleKey: string
  readonly seriesId: number | null
  readonly sourceId: number | null
  readonly gearId: number | null
  readonly partId: number | null
  readonly measure: MeasureKey | null
  readonly severity: Severity
  readonly title: string
  readonly reason: string
  readonly sinceAt: Date
  readonly openedAt: Date
}

/** Opens an alert once. @returns `null` when one is already open for this rule on this subject. */
export async function openAlert(trx: Db, alert: NewAlert): Promise<number | null> {
  const row = await trx
    .insertInto('alert')
    .values(alert)
    .onConflict((conflict) => conflict.doNothing())
    .returning('id')
    .executeTakeFirst()
  if (row === undefined) return null
  await recordEvent(trx, row.id, {
    at: alert.openedAt,
    what: 'opened',
    who: null,
    text: `${alert.title}. ${alert.reason}`,
  })
  await announce(trx, { topic: 'alerts' })
  return row.id
}

/** The alert goes on with another severity. */
export async function changeSeverity(
  trx: Db,
  id: number,
  change: { severity: Severity; title: string; reason: string; at: Date },
): Promise<void> {
  const { severity, title, reason, at } = change
  await trx.updateTable('alert').set({ severity, title, reason }).where('id', '=', id).execute()
  await recordEvent(trx, id, {
    at,
    what: severity === 'critical' ? 'worse' : 'better',
    who: null,
    text: `${title}. ${reason}`,
  })
  await announce(trx, { topic: 'alerts' })
}

/** @returns false when it was cleared already. */
export async function clearAlert(trx: Db, id: number, at: Date, reason: string): Promise<boolean> {
  const row = await trx
    .updateTable('alert')
    .set({ clearedAt: at, clearedReason: reason })
    .where('id', '=', id)
    .where('clearedAt', 'is', null)
    .returning('id')
    .executeTakeFirst()
  if (row === undefined) return false
  await recordEvent(trx, id, { at, what: 'cleared', who: null, text: reason })
  await announce(trx, { topic: 'alerts' })
  return true
}

export type TakeOutcome =
  { kind: 'taken' } | { kind: 'alreadyTaken'; by: string } | { kind: 'cleared' } | { kind: 'unknown' }

/** «I have it», with a name. The first one to say so has it. */
export async function takeAlert(db: Db, id: number, who: string, at: Date): Promise<TakeOutcome> {
  return db.transaction().execute(async (trx): Promise<TakeOutcome> => {
    const alert = await trx
      .selectFrom('alert')
      .select(['clearedAt', 'takenBy'])
      .where('id', '=', id)
      .forUpdate()
      .executeTakeFirst()
    if (alert === undefined) return { kind: 'unknown' }
    if (alert.takenBy !== null) return { kind: 'alreadyTaken', by: alert.takenBy }
    if (alert.clearedAt !== null) return { kind: 'cleared' }
    await trx.updateTable('alert').set({ takenAt: at, takenBy: who }).where('id', '=', id).execute()
    await recordEvent(trx, id, { at, what: 'taken', who, text: `${who} has it.` })
    await announce(trx, { topic: 'alerts' })
    return { kind: 'taken' }
  })
}

export async function recordEvent(
  trx: Db,
  alertId: number,
  event: { at: Date; what: string; who: string | null; text: string },
): Promise<void> {
  await trx
    .insertInto('alertEvent')
    .values({ alertId, ...event })
    .execute()
}

/** Open alerts as the collector needs them. */
export function openAlertsOf(db: Db, sourceId: number) {
  return db
    .selectFrom('alert')
    .leftJoin('series', 'series.id', 'alert.seriesId')
    .select([
      'alert.id',
      'alert.ruleKey',
      'alert.seriesId',
      'alert.partId',
      'alert.severity',
      'alert.openedAt',
      'alert.sourceId',
    ])
    .where('alert.clearedAt', 'is', null)
    .where((eb) => eb.or([eb('series.sourceId', '=', sourceId), eb('alert.sourceId', '=', sourceId)]))
    .execute()
}

/** Open alerts of a rule that concerns neither a series nor a source. */
export const openAlertsOfRule = (db: Db, ruleKey: string) =>
  db
    .selectFrom('alert')
    .select(['id', 'severity'])
    .where('ruleKey', '=', ruleKey)
    .where('clearedAt', 'is', null)
    .orderBy('id')
    .forUpdate()
    .execute()

const listing = (db: Db) =>
  db
    .selectFrom('alert')
    .leftJoin('gear', 'gear.id', 'alert.gearId')
    .leftJoin('part', 'part.id', 'alert.partId')
    .leftJoin('source', 'source.id', 'alert.sourceId')
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('room', 'room.id', 'rack.roomId')
    .leftJoin('series', 'series.id', 'alert.seriesId')
    .leftJoin('source as reader', 'reader.id', 'series.sourceId')
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
      'alert.sinceAt',
      'alert.openedAt',
      'alert.clearedAt',
      'alert.clearedReason',
      'alert.takenAt',
      'alert.takenBy',
      'gear.name as gearName',
      'gear.kind as gearKind',
      'gear.unit',
      'gear.heightUnits',
      'part.name as partName',
      'part.kind as partKind',
      'source.name as sourceName',
      'rack.name as rackName',
      'room.name as roomName',
      'reader.id as readerId',
      sql<string | null>`(
        select other.name from link join gear other on other.id = link.from_gear_id
        where link.to_gear_id = gear.id and link.kind in ('hosts', 'stores-on') and other.kind = 'server'
        order by other.name limit 1)`.as('onName'),
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

export type ListedAlert = Awaited<ReturnType<typeof listOpenAlerts>>[number]

/** Who was told of each alert, oldest first. `sentAt` is `null` while the message waits. */
export function messagesOf(db: Db, alertIds: readonly number[]) {
  if (alertIds.length === 0) return Promise.resolve([])
  return db
    .selectFrom('message')
    .select(['alertId', 'team', 'sentAt', 'createdAt', 'answer', 'attempts', 'subject'])
    .where('alertId', 'in', [...alertIds])
    .orderBy('createdAt')
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
