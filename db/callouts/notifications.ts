import { sql } from 'kysely'
import type { CallNames, Facts, LastOfStep, MessageEvent } from '#core/callouts'
import type { Severity } from '#core/rules'
import { placeLabel } from '#core/site'
import type { Db } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { listChannels } from './channels.ts'
import { listTeams } from './people.ts'
import type { MessageTarget } from './tables.ts'

/** An alert as far as telling asks. */
export interface NotifiedAlert {
  readonly id: number
  readonly ruleKey: string
  readonly subject: string
  readonly severity: Severity
  readonly flaps: number
  readonly gearId: number | null
  readonly partId: number | null
  readonly gearName: string | null
  readonly place: string | null
  /** The gear it is about; of a source all that it tells of. */
  readonly gearIds: readonly number[]
  /** How often its source is asked; ms. */
  readonly intervalMs: number | null
}

/** By its id. */
export async function notifiedAlerts(
  db: Db,
  ids: readonly number[],
): Promise<ReadonlyMap<number, NotifiedAlert>> {
  const rows = await db
    .selectFrom('alert')
    // Of a silent source the gear that it tells of, where that is one that stands somewhere.
    .leftJoin('gear', (join) =>
      join.on(
        sql<boolean>`gear.id = coalesce(alert.gear_id, (
          select case when count(*) = 1 then min(placed.id) end
          from sighting join gear placed on placed.id = sighting.gear_id
          where sighting.source_id = alert.source_id and placed.merged_into is null and (placed.rack_id is not null
            or exists (select 1 from floor_place at where at.gear_id = placed.id))))`,
      ),
    )
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('floorPlace', 'floorPlace.gearId', 'gear.id')
    .leftJoin('room', (join) =>
      join.on((eb) => eb('room.id', '=', eb.fn.coalesce('rack.roomId', 'floorPlace.roomId'))),
    )
    .leftJoin('series', 'series.id', 'alert.seriesId')
    .leftJoin('source', (join) =>
      join.on((eb) => eb('source.id', '=', eb.fn.coalesce('alert.sourceId', 'series.sourceId'))),
    )
    .select([
      'alert.id',
      'alert.ruleKey',
      'alert.subject',
      'alert.severity',
      'alert.flaps',
      'alert.gearId',
      'alert.partId',
      'gear.name as gearName',
      'gear.unit',
      'gear.heightUnits',
      'rack.name as rack',
      'room.name as room',
      'source.intervalSeconds',
      // What runs on something, or is stored on it, is where that is.
      sql<string | null>`(
        select other.name from link join gear other on other.id = link.from_gear_id
        where link.to_gear_id = gear.id and link.kind in ('hosts', 'stores-on') and other.kind = 'server'
        order by other.name limit 1)`.as('onName'),
      sql<number[]>`case when alert.gear_id is not null then array[alert.gear_id]
        else array(select gear_id from sighting where sighting.source_id = alert.source_id) end`.as(
        'gearIds',
      ),
    ])
    .where(sql<boolean>`alert.id = any(${[...ids]}::int[])`)
    .execute()
  return new Map(
    rows.map(({ unit, heightUnits, rack, room, onName, intervalSeconds, ...rest }) => {
      const position = unit === null || heightUnits === null ? null : { unit, heightUnits }
      const place = placeLabel({ room, rack, position, onName })
      return [
        rest.id,
        { ...rest, place, intervalMs: intervalSeconds === null ? null : intervalSeconds * 1000 },
      ]
    }),
  )
}

/** What each step of a call-out has told last of the trouble of an alert (its rule on its subject), or is about to. */
export type LastNotified = (callOutId: number, alertId: number) => ReadonlyMap<number, LastOfStep>

const NOTHING: ReadonlyMap<number, LastOfStep> = new Map()

export async function lastNotified(
  db: Db,
  callOutIds: readonly number[],
  alerts: readonly Pick<NotifiedAlert, 'id' | 'ruleKey' | 'subject'>[],
): Promise<LastNotified> {
  const { rows } = await sql<{
    forId: number
    callOutId: number
    step: number
    event: MessageEvent
    at: Date
    alertId: number
    sentAt: Date | null
    attempts: number
  }>`
    select distinct on (given.id, message.call_out_id, message.step) given.id as "forId",
      message.call_out_id as "callOutId", message.step, message.event,
      coalesce(message.sent_at, message.due_at) as at, message.alert_id as "alertId", message.sent_at as "sentAt",
      message.attempts
    from unnest(
      ${alerts.map(({ id }) => id)}::int[], ${alerts.map(({ ruleKey }) => ruleKey)}::text[],
      ${alerts.map(({ subject }) => subject)}::text[]
    ) as given (id, rule_key, subject)
    join alert on alert.rule_key = given.rule_key and alert.subject = given.subject
    join message on message.alert_id = alert.id
    where message.call_out_id = any(${[...callOutIds]}::int[]) and message.skipped is null and not message.is_dry
    order by given.id, message.call_out_id, message.step, message.created_at desc`.execute(db)
  const steps = new Map<string, Map<number, LastOfStep>>()
  for (const { forId, callOutId, step, event, at, alertId, sentAt, attempts } of rows) {
    const key = `${callOutId} ${forId}`
    const isWaiting = sentAt === null && attempts === 0 && at.getTime() > Date.now()
    const last = { event, atMs: at.getTime(), isSameAlert: alertId === forId, isWaiting }
    steps.set(key, (steps.get(key) ?? new Map<number, LastOfStep>()).set(step, last))
  }
  return (callOutId, alertId) => steps.get(`${callOutId} ${alertId}`) ?? NOTHING
}

export interface NewMessage {
  readonly id: string
  readonly alertId: number | null
  readonly callOutId: number | null
  readonly step: number
  readonly action: 'notify' | 'command' | 'stop'
  readonly channelId: number | null
  readonly target: MessageTarget
  readonly team: string
  readonly event: MessageEvent | 'test'
  readonly facts: Facts
  readonly subject: string
  readonly body: string
  readonly dueAt: Date
  readonly skipped?: string
  readonly isDry?: boolean
}

/** Tries at a message, with growing pauses between them: the last ones are hours apart. */
const MOST_TRIES = 25

/** Messages of one channel that go out at the same time, at most. */
const LANES = 4

/** What goes in one letter, at most; the rest is the next one's. */
const MOST_TOGETHER = 500

/** What a message shares with others that may go out with it: the step of a call-out, and who is told. */
type Companions = Pick<OpenMessage, 'callOutId' | 'step' | 'channelId' | 'target'>

const companions = ({ callOutId, step, channelId, target }: Companions) =>
  sql<boolean>`message.call_out_id = ${callOutId} and message.step = ${step} and message.channel_id = ${channelId}
    and message.target = ${JSON.stringify(target)}::jsonb and message.action = 'notify' and not message.is_dry`

/** Whether a message may go in one with others: it reaches people, by a step of a call-out. */
export const goesTogether = ({ callOutId, target }: Pick<Companions, 'callOutId' | 'target'>): boolean =>
  callOutId !== null && target?.to != null

/** Messages that are due with this one and would go to the same people, the oldest first; at most as many as one letter takes. */
export async function waitingBeside(db: Db, message: Companions): Promise<string[]> {
  const { rows } = await sql<{ id: string }>`
    select id from message
    where ${companions(message)} and due_at <= now() and sent_at is null and skipped is null and not is_failed
    order by created_at, id limit ${MOST_TOGETHER}`.execute(db)
  return rows.map(({ id }) => id)
}

/** When letters like this one went out in the last minute, the newest first. What went in one counts once. */
export async function recentlySent(db: Db, message: Companions): Promise<number[]> {
  const { rows } = await sql<{ at: Date }>`
    select distinct sent_at as at from message
    where ${companions(message)} and sent_at > now() - interval '1 minute' order by sent_at desc`.execute(db)
  return rows.map(({ at }) => at.getTime())
}

/** This message, whose job is running, and what waits beside it are not tried before then. */
export async function postpone(
  db: Db,
  message: Companions & { readonly id: string },
  until: Date,
): Promise<void> {
  await sql`select graphile_worker.reschedule_jobs(array(
      select job.id from message join graphile_worker.jobs job on job.key = message.id::text
      where ${companions(message)} and message.sent_at is null and message.skipped is null and due_at <= now()
        and job.locked_at is null and job.run_at < ${until}::timestamptz - interval '1 second'), ${until})`.execute(
    db,
  )
  await addJobs(db, [{ task: 'notify', message, runAt: until }])
}

/** Jobs of messages that have gone out with another. */
export async function removeJobs(db: Db, ids: readonly string[]): Promise<void> {
  if (ids.length === 0) return
  await sql`select graphile_worker.remove_job(key) from unnest(${[...ids]}::text[]) key`.execute(db)
}

/** One message, as `insertMessages` does. */
export const insertMessage = (trx: Db, message: NewMessage): Promise<void> => insertMessages(trx, [message])

/**
 * Writes messages together with the jobs that send them. Of one channel few go out at the same time, so that one that does
 * not answer holds up nobody else's.
 */
export async function insertMessages(trx: Db, messages: readonly NewMessage[]): Promise<void> {
  if (messages.length === 0) return
  await trx
    .insertInto('message')
    .values(
      messages.map(({ target, facts, ...rest }) => ({
        ...rest,
        recipients: [],
        target: JSON.stringify(target),
        facts: JSON.stringify(facts),
      })),
    )
    .execute()
  await addJobs(
    trx,
    messages
      .filter(({ skipped }) => skipped === undefined)
      .map((message) => ({
        task: message.action === 'command' ? commandTask(message.target.command ?? '') : 'notify',
        message,
        runAt: message.dueAt,
      })),
  )
}

interface NewJob {
  readonly task: string
  readonly message: Pick<NewMessage, 'id' | 'channelId' | 'callOutId' | 'step'> & Pick<OpenMessage, 'target'>
  readonly runAt: Date
}

/** Of one channel few go out at the same time; what may go out together goes one after the other. */
async function addJobs(trx: Db, jobs: readonly NewJob[]): Promise<void> {
  await sql`
    select graphile_worker.add_job(task, json_build_object('id', id), queue_name := queue, run_at := at,
      max_attempts := ${MOST_TRIES}, job_key := id)
    from unnest(
      ${jobs.map(({ task }) => task)}::text[], ${jobs.map(({ message }) => message.id)}::text[],
      ${jobs.map(({ message }) => queueOf(message))}::text[], ${jobs.map(({ runAt }) => runAt)}::timestamptz[]
    ) as given (task, id, queue, at)`.execute(trx)
}

function queueOf(message: NewJob['message']): string | null {
  const { id, channelId, callOutId, step } = message
  const lane = (goesTogether(message) ? callOutId! + step : parseInt(id.slice(-2), 16)) % LANES
  return channelId === null ? null : `channel-${channelId}-${lane}`
}

/** Only collectors whose machine allows a command take the jobs of it. */
export const commandTask = (name: string): string => `command ${name}`

/** Everything that waits for a channel is tried at once: it works again. */
export async function hurryChannel(db: Db, channelId: number): Promise<void> {
  await sql`select graphile_worker.reschedule_jobs(array(
      select job.id from graphile_worker.jobs job join message on message.id::text = job.key
      where message.channel_id = ${channelId} and message.sent_at is null and message.attempts > 0
        and job.locked_at is null and job.run_at > now()), now())`.execute(db)
}

/**
 * What waits for its turn of an alert is not told: none of it has been tried.
 * @param only events of this kind; all of it when not given
 */
export async function skipWaiting(
  trx: Db,
  alertIds: readonly number[],
  skipped: string,
  only?: readonly MessageEvent[],
): Promise<void> {
  if (alertIds.length === 0) return
  await trx
    .updateTable('message')
    .set({ skipped })
    .where('alertId', 'in', [...alertIds])
    .$if(only !== undefined, (query) => query.where('event', 'in', [...only!]))
    .where('sentAt', 'is', null)
    .where('skipped', 'is', null)
    .where('attempts', '=', 0)
    .where('dueAt', '>', new Date())
    .execute()
}

/** That a trouble has gone is not told by a call-out: it is back. */
export async function skipWaitingEnd(
  trx: Db,
  callOutId: number,
  { ruleKey, subject }: Pick<NotifiedAlert, 'ruleKey' | 'subject'>,
): Promise<void> {
  await trx
    .updateTable('message')
    .set({ skipped: 'it is back' })
    .where('callOutId', '=', callOutId)
    .where('event', '=', 'cleared')
    .where('sentAt', 'is', null)
    .where('skipped', 'is', null)
    .where('attempts', '=', 0)
    .where('dueAt', '>', new Date())
    .where('alertId', 'in', (query) =>
      query
        .selectFrom('alert')
        .select('alert.id')
        .where('ruleKey', '=', ruleKey)
        .where('subject', '=', subject),
    )
    .execute()
}

/** A message that is to go out, with all that decides whether it still should. */
export const openMessage = (db: Db, id: string) =>
  db
    .selectFrom('message')
    .leftJoin('alert', 'alert.id', 'message.alertId')
    .leftJoin('alert as cause', 'cause.id', 'alert.causeId')
    .leftJoin('callOut', 'callOut.id', 'message.callOutId')
    .leftJoin('channel', 'channel.id', 'message.channelId')
    .selectAll('message')
    .select([
      'alert.ruleKey',
      'alert.subject as alertSubject',
      'alert.clearedAt',
      'alert.severity',
      // Of a row somebody has the whole: of another sign of the same part, or of what it follows from.
      sql<string | null>`coalesce(alert.taken_by, (
        select other.taken_by from alert other
        where other.cleared_at is null and other.taken_by is not null
          and (other.part_id = alert.part_id or other.id = alert.cause_id)
        order by other.id limit 1))`.as('takenBy'),
      'alert.flaps',
      'alert.quietId',
      'alert.consequence',
      'alert.gearId',
      'cause.id as causeAlertId',
      'cause.title as cause',
      'callOut.body as callOut',
      'callOut.isOn',
      'channel.kind as channelKind',
      'channel.name as channelName',
      'channel.settings',
      'channel.sealedSecret',
    ])
    .where('message.id', '=', id)
    .executeTakeFirst()
export type OpenMessage = NonNullable<Awaited<ReturnType<typeof openMessage>>>

/** Whether a call-out has told of an alert, or is about to. */
export async function tellsOf(db: Db, callOutId: number, alertId: number): Promise<boolean> {
  const row = await db
    .selectFrom('message')
    .select('id')
    .where('callOutId', '=', callOutId)
    .where('alertId', '=', alertId)
    .where('skipped', 'is', null)
    .executeTakeFirst()
  return row !== undefined
}

/** Whether an alert that has cleared was told of only then, as over: its beginning had to wait. */
export async function toldAsOver(
  db: Db,
  message: Pick<OpenMessage, 'alertId' | 'callOutId' | 'step'>,
): Promise<boolean> {
  const { alertId, callOutId, step } = message
  const row = await db
    .selectFrom('message')
    .select('id')
    .where('alertId', '=', alertId)
    .where('callOutId', 'is not distinct from', callOutId)
    .where('step', '=', step)
    .where('event', 'in', ['opened', 'worse'])
    .where('sentAt', 'is not', null)
    .where(sql<boolean>`(facts ->> 'overMs') is not null`)
    // A next word may be over while what it is said of goes on.
    .where(sql<boolean>`(facts -> 'next') is null`)
    .executeTakeFirst()
  return row !== undefined
}

export async function hasCleared(db: Db, alertId: number): Promise<boolean> {
  const row = await db
    .selectFrom('alert')
    .select('id')
    .where('id', '=', alertId)
    .where('clearedAt', 'is', null)
    .executeTakeFirst()
  return row === undefined
}

/** Whether the next word of a kind was said on an alert since an instant, or is about to be. */
export async function isNextWordKnown(db: Db, alertId: number, key: string, since: Date): Promise<boolean> {
  const row = await db
    .selectFrom('message')
    .select('id')
    .where('alertId', '=', alertId)
    .where('createdAt', '>', since)
    .where('skipped', 'is', null)
    .where(sql<boolean>`facts -> 'next' ->> 'key' = ${key}`)
    .executeTakeFirst()
  return row !== undefined
}

/** Whether a trouble, a rule on a subject, has an open alert now. */
export async function isOpen(db: Db, ruleKey: string, subject: string): Promise<boolean> {
  const row = await db
    .selectFrom('alert')
    .select('id')
    .where('ruleKey', '=', ruleKey)
    .where('subject', '=', subject)
    .where('clearedAt', 'is', null)
    .executeTakeFirst()
  return row !== undefined
}

/** Names of what call-outs point to. */
export async function callNames(db: Db): Promise<CallNames> {
  const [channels, teams, gear] = await Promise.all([
    listChannels(db),
    listTeams(db),
    db.selectFrom('gear').select(['id', 'name']).where('mergedInto', 'is', null).execute(),
  ])
  return {
    channels: new Map(channels.map(({ id: channelId, name, kind }) => [channelId, { name, kind }])),
    teams: new Map(teams.map(({ id: teamId, name }) => [teamId, name])),
    gear: new Map(gear.map(({ id: gearId, name }) => [gearId, name])),
  }
}

const idsOf = (messages: readonly { readonly id: string }[]): string[] => messages.map(({ id }) => id)

/** A try that failed, with what came back, of messages that would have gone out together. */
export async function recordTry(
  db: Db,
  messages: readonly OpenMessage[],
  failure: { readonly answer: string; readonly at: Date },
): Promise<void> {
  await db
    .updateTable('message')
    .set((eb) => ({ attempts: eb('attempts', '+', 1), answer: failure.answer, triedAt: failure.at }))
    .where('id', 'in', idsOf(messages))
    .where('sentAt', 'is', null)
    .execute()
}

/** It is not tried any more. */
export async function giveUp(db: Db, id: string): Promise<void> {
  await db.updateTable('message').set({ isFailed: true }).where('id', '=', id).execute()
  await announce(db, { topic: 'callouts' })
}

/** How a message ended: sent, or refused for good. */
export interface MessageEnd {
  readonly at: Date
  readonly isWell: boolean
  readonly answer: string
  readonly recipients: readonly string[]
  readonly subject: string
  readonly body: string
  /** As it left: with the numbers of that moment. */
  readonly facts: Facts
}

export async function recordEnd(trx: Db, id: string, end: MessageEnd): Promise<void> {
  const { at, isWell, answer, recipients, subject, body, facts } = end
  await trx
    .updateTable('message')
    .set((eb) => ({
      sentAt: isWell ? at : null,
      triedAt: at,
      isFailed: !isWell,
      attempts: eb('attempts', '+', 1),
      answer,
      recipients: [...recipients],
      subject,
      body,
      facts: JSON.stringify(facts),
    }))
    .where('id', '=', id)
    .execute()
}

/** It is not sent after all, and why. */
export async function skipMessage(db: Db, id: string, skipped: string): Promise<void> {
  await db.updateTable('message').set({ skipped }).where('id', '=', id).execute()
  await announce(db, { topic: 'callouts' })
}
