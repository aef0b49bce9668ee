import type { MeasureKey } from '#core/catalogue'
import type { Severity } from '#core/rules'
import type { Db } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { within } from '../platform/connect.ts'
import { type TakeOutcome } from '#core/alerts'

export interface NewAlert {
  readonly ruleKey: string
  readonly seriesId: number | null
  readonly sourceId: number | null
  readonly gearId: number | null
  readonly partId: number | null
  readonly measure: MeasureKey | null
  /** Whom it is about: «series 12», «source 3», «gear 4», «group 5». */
  readonly subject: string
  readonly severity: Severity
  readonly title: string
  readonly reason: string
  readonly line?: string | null
  readonly value?: number | null
  readonly sinceAt: Date
  readonly openedAt: Date
}

/** What comes again so soon after it went is the same trouble. */
const AGAIN_MS = 10 * 60_000
/** From so many openings within an hour on it flaps, and goes on as one alert. */
const FLAPPING = 3
const HOUR_MS = 3_600_000

/**
 * Opens an alert once. What has come and gone several times within an hour does not make another alert: the last one is
 * open again, and counts how often.
 * @returns `null` when one is already open for this rule on this subject
 */
export async function openAlert(trx: Db, alert: NewAlert): Promise<number | null> {
  const again = await reopen(trx, alert)
  if (again !== null) return again
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

async function reopen(trx: Db, alert: NewAlert): Promise<number | null> {
  const { ruleKey, subject, openedAt } = alert
  const lately = await trx
    .selectFrom('alert')
    .select(['id', 'clearedAt', 'flaps'])
    .where('ruleKey', '=', ruleKey)
    .where('subject', '=', subject)
    .where('openedAt', '>', new Date(openedAt.getTime() - HOUR_MS))
    .orderBy('openedAt', 'desc')
    .orderBy('id', 'desc')
    .limit(FLAPPING)
    .execute()
  const [last] = lately
  if (last?.clearedAt == null || openedAt.getTime() - last.clearedAt.getTime() > AGAIN_MS) return null
  if (last.flaps === 0 && lately.length < FLAPPING - 1) return null
  const flaps = last.flaps === 0 ? lately.length + 1 : last.flaps + 1
  const { severity, title, reason } = alert
  await trx
    .updateTable('alert')
    .set({ clearedAt: null, clearedReason: null, flaps, severity, title, reason })
    .where('id', '=', last.id)
    .execute()
  await recordEvent(trx, last.id, {
    at: openedAt,
    what: 'again',
    who: null,
    text: `It is back, for the ${ordinal(flaps)} time: ${reason}`,
  })
  await announce(trx, { topic: 'alerts' })
  return last.id
}

const ordinal = (count: number): string => {
  const last = count % 10
  const isTeen = Math.floor(count / 10) % 10 === 1
  return `${count}${isTeen ? 'th' : last === 1 ? 'st' : last === 2 ? 'nd' : last === 3 ? 'rd' : 'th'}`
}

/** The alert goes on with another severity. */
export async function changeSeverity(
  trx: Db,
  id: number,
  change: { severity: Severity; title: string; reason: string; line?: string; at: Date },
): Promise<void> {
  const { severity, title, reason, line, at } = change
  await trx
    .updateTable('alert')
    .set({ severity, title, reason, ...(line === undefined ? {} : { line }) })
    .where('id', '=', id)
    .execute()
  await recordEvent(trx, id, {
    at,
    what: severity === 'critical' ? 'worse' : 'better',
    who: null,
    text: `${title}. ${reason}`,
  })
  await announce(trx, { topic: 'alerts' })
}

/** The words of an open alert that goes on: a burst that has grown. */
export async function retellAlert(
  db: Db,
  id: number,
  words: { readonly title: string; readonly reason: string },
): Promise<void> {
  await db.updateTable('alert').set(words).where('id', '=', id).where('clearedAt', 'is', null).execute()
  await announce(db, { topic: 'alerts' })
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

/** «I have it», with a name. The first one to say so has it. */
export async function takeAlert(db: Db, id: number, who: string, at: Date): Promise<TakeOutcome> {
  return within(db, async (trx): Promise<TakeOutcome> => {
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
      'alert.sinceAt',
      'alert.sourceId',
      'alert.subject',
      'alert.title',
    ])
    .where('alert.clearedAt', 'is', null)
    .where((eb) => eb.or([eb('series.sourceId', '=', sourceId), eb('alert.sourceId', '=', sourceId)]))
    .execute()
}

/** Open alerts about a source as a whole: that it is silent. */
export const openSourceAlerts = (db: Db) =>
  db
    .selectFrom('alert')
    .select(['id', 'ruleKey', 'sourceId', 'openedAt'])
    .where('clearedAt', 'is', null)
    .where('sourceId', 'is not', null)
    .where('seriesId', 'is', null)
    .orderBy('id')
    .execute()

/** Open alerts of a rule that concerns neither a series nor a source. */
export const openAlertsOfRule = (db: Db, ruleKey: string) =>
  db
    .selectFrom('alert')
    .select(['id', 'severity', 'subject', 'title'])
    .where('ruleKey', '=', ruleKey)
    .where('clearedAt', 'is', null)
    .orderBy('id')
    .forUpdate()
    .execute()

/** Open alerts of rules that count. */
export const openCountAlerts = (db: Db) =>
  db
    .selectFrom('alert')
    .select(['id', 'ruleKey', 'severity', 'sinceAt', 'title'])
    .where('clearedAt', 'is', null)
    .where('subject', '=', 'count')
    .execute()

/** Open alerts of what devices say. */
export const openTextAlerts = (db: Db) =>
  db
    .selectFrom('alert')
    .select(['id', 'ruleKey', 'gearId', 'openedAt', 'title'])
    .where('clearedAt', 'is', null)
    .where('subject', 'like', 'text %')
    .execute()

/** What somebody has to say of it. @returns false when there is no such alert */
export async function commentAlert(
  db: Db,
  id: number,
  who: string,
  text: string,
  at: Date,
): Promise<boolean> {
  const alert = await db.selectFrom('alert').select('id').where('id', '=', id).executeTakeFirst()
  if (alert === undefined) return false
  await recordEvent(db, id, { at, what: 'comment', who, text })
  await announce(db, { topic: 'alerts' })
  return true
}
