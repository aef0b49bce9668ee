import { sql } from 'kysely'
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
  /** Whom it is about: “series 12”, “source 3”, “gear 4”, “group 5”. */
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

/** One alert, as `openAlerts` does. */
export async function openAlert(trx: Db, alert: NewAlert): Promise<number | null> {
  return (await openAlerts(trx, [alert]))[0]!
}

/**
 * Opens each alert once. What has come and gone several times within an hour does not make another alert: the last one is
 * open again, and counts how often.
 * @returns in their order; `null` where one is already open for this rule on this subject
 */
export async function openAlerts(trx: Db, alerts: readonly NewAlert[]): Promise<(number | null)[]> {
  const ids = await reopen(trx, alerts)
  const fresh = alerts.filter((_, index) => ids[index] === null)
  if (fresh.length === 0) return ids
  const rows = await trx
    .insertInto('alert')
    .values(fresh)
    .onConflict((conflict) => conflict.doNothing())
    .returning(['id', 'ruleKey', 'subject'])
    .execute()
  const made = new Map(rows.map((row) => [troubleOf(row), row.id]))
  const events: NewEvent[] = []
  const all = alerts.map((alert, index) => {
    const id = ids[index] ?? made.get(troubleOf(alert)) ?? null
    if (id === null || ids[index] !== null) return id
    // Of two for the same trouble the second is open already.
    made.delete(troubleOf(alert))
    const text = `${alert.title}. ${alert.reason}`
    events.push({ alertId: id, at: alert.openedAt, what: 'opened', who: null, text })
    return id
  })
  await recordEvents(trx, events)
  if (events.length > 0) await announce(trx, { topic: 'alerts' })
  return all
}

type Trouble = Pick<NewAlert, 'ruleKey' | 'subject'>

const troubleOf = ({ ruleKey, subject }: Trouble): string => `${ruleKey}\n${subject}`

/** @returns in their order the alert that goes on; `null` where it is a new one, or one that is open */
async function reopen(trx: Db, alerts: readonly NewAlert[]): Promise<(number | null)[]> {
  const { rows } = await sql<Lately & { slot: number }>`
    select given.slot::int as slot, lately.*
    from unnest(
      ${alerts.map(({ ruleKey }) => ruleKey)}::text[], ${alerts.map(({ subject }) => subject)}::text[],
      ${alerts.map(({ openedAt }) => openedAt)}::timestamptz[]
    ) with ordinality as given (rule_key, subject, opened_at, slot)
    cross join lateral (
      select id, cleared_at as "clearedAt", flaps from alert
      where rule_key = given.rule_key and subject = given.subject
        and alert.opened_at > given.opened_at - make_interval(secs => ${HOUR_MS / 1000})
      order by alert.opened_at desc, id desc limit ${FLAPPING}
    ) as lately`.execute(trx)
  const ids: (number | null)[] = []
  for (const [index, alert] of alerts.entries()) {
    const lately = rows.filter(({ slot }) => slot === index + 1)
    const flaps = flapsOf(lately, alert.openedAt)
    const id = flaps === null ? null : lately[0]!.id
    if (id !== null && ids.includes(id)) ids.push(null)
    else ids.push(id)
    if (ids.at(-1) !== null) await goOn(trx, id!, alert, flaps!)
  }
  return ids
}

interface Lately {
  readonly id: number
  readonly clearedAt: Date | null
  readonly flaps: number
}

/** How often it has come with this time, if it goes on as the newest of these. */
function flapsOf(lately: readonly Lately[], openedAt: Date): number | null {
  const [last] = lately
  if (last?.clearedAt == null || openedAt.getTime() - last.clearedAt.getTime() > AGAIN_MS) return null
  if (last.flaps === 0 && lately.length < FLAPPING - 1) return null
  return last.flaps === 0 ? lately.length + 1 : last.flaps + 1
}

async function goOn(trx: Db, id: number, alert: NewAlert, flaps: number): Promise<void> {
  const { severity, title, reason, openedAt } = alert
  await trx
    .updateTable('alert')
    .set({ clearedAt: null, clearedReason: null, flaps, severity, title, reason })
    .where('id', '=', id)
    .execute()
  await recordEvent(trx, id, {
    at: openedAt,
    what: 'again',
    who: null,
    text: `It is back, for the ${ordinal(flaps)} time: ${reason}`,
  })
  await announce(trx, { topic: 'alerts' })
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
  change: { severity: Severity; title: string; reason: string; line?: string; value?: number; at: Date },
): Promise<void> {
  const { severity, title, reason, line, value, at } = change
  await trx
    .updateTable('alert')
    .set({
      severity,
      title,
      reason,
      ...(line === undefined ? {} : { line }),
      ...(value === undefined ? {} : { value }),
    })
    .where('id', '=', id)
    .execute()
  await recordEvent(trx, id, {
    at,
    what: severity === 'critical' || value !== undefined ? 'worse' : 'better',
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

/** How an alert ends. */
export interface Clearing {
  readonly id: number
  readonly at: Date
  readonly reason: string
}

/** @returns those that were not cleared already */
export async function clearAlerts(trx: Db, clearings: readonly Clearing[]): Promise<Set<number>> {
  const { rows } = await sql<{ id: number }>`
    update alert set cleared_at = given.at, cleared_reason = given.reason
    from unnest(
      ${clearings.map(({ id }) => id)}::int[], ${clearings.map(({ at }) => at)}::timestamptz[],
      ${clearings.map(({ reason }) => reason)}::text[]
    ) as given (id, at, reason)
    where alert.id = given.id and cleared_at is null
    returning alert.id`.execute(trx)
  const cleared = new Set(rows.map(({ id }) => id))
  const events = clearings
    .filter(({ id }) => cleared.has(id))
    .map(({ id, at, reason }) => ({ alertId: id, at, what: 'cleared', who: null, text: reason }))
  await recordEvents(trx, events)
  if (events.length > 0) await announce(trx, { topic: 'alerts' })
  return cleared
}

/**
 * “I have it”, with a name. The first one to say so has it: the alert, what else is open of the same part, and what
 * follows from any of these, for that is one row on every screen. What somebody has already stays theirs.
 */
export async function takeAlert(db: Db, id: number, who: string, at: Date): Promise<TakeOutcome> {
  return within(db, async (trx): Promise<TakeOutcome> => {
    const { rows } = await sql<{ id: number; clearedAt: Date | null; takenBy: string | null }>`
      with part as (
        select other.id from alert own join alert other
          on other.id = own.id or (other.part_id = own.part_id and other.cleared_at is null)
        where own.id = ${id}
      )
      select id, cleared_at as "clearedAt", taken_by as "takenBy" from alert
      where id in (select id from part)
        or (cleared_at is null and cause_id in (select id from part))
      order by id for update`.execute(trx)
    const alert = rows.find((each) => each.id === id)
    if (alert === undefined) return { kind: 'unknown' }
    if (alert.takenBy !== null)
      return alert.takenBy === who ? { kind: 'taken' } : { kind: 'alreadyTaken', by: alert.takenBy }
    if (alert.clearedAt !== null) return { kind: 'cleared' }
    const free = rows.filter(({ takenBy }) => takenBy === null).map((each) => each.id)
    await trx.updateTable('alert').set({ takenAt: at, takenBy: who }).where('id', 'in', free).execute()
    await recordEvents(
      trx,
      free.map((alertId) => ({
        alertId,
        at,
        what: 'taken',
        who,
        text: alertId === id ? `${who} has it.` : `${who} has it, with all of its row.`,
      })),
    )
    await announce(trx, { topic: 'alerts' })
    return { kind: 'taken' }
  })
}

export const recordEvent = (trx: Db, alertId: number, event: Omit<NewEvent, 'alertId'>): Promise<void> =>
  recordEvents(trx, [{ alertId, ...event }])

interface NewEvent {
  readonly alertId: number
  readonly at: Date
  readonly what: string
  readonly who: string | null
  readonly text: string
}

async function recordEvents(trx: Db, events: readonly NewEvent[]): Promise<void> {
  if (events.length > 0) await trx.insertInto('alertEvent').values(events).execute()
}

/** Open alerts as the collector needs them. */
export function openAlertsOf(db: Db, sourceId: number) {
  return (
    db
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
        'alert.value',
      ])
      .where('alert.clearedAt', 'is', null)
      // Of what is forecast nothing is judged reading by reading.
      .where('alert.subject', 'not like', 'ahead %')
      .where((eb) => eb.or([eb('series.sourceId', '=', sourceId), eb('alert.sourceId', '=', sourceId)]))
      .execute()
  )
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

/** Open alerts of what is forecast. */
export const openAheadAlerts = (db: Db) =>
  db
    .selectFrom('alert')
    .select(['id', 'ruleKey', 'seriesId', 'severity', 'title'])
    .where('clearedAt', 'is', null)
    .where('subject', 'like', 'ahead %')
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
