import { sql } from 'kysely'
import {
  type Accepted,
  holdsAt,
  isQuieted,
  OFF_RULE,
  runsOnOthers,
  isRepeats,
  type QuietReach,
  type QuietScope,
  type QuietSubject,
  type QuietTime,
  type Repeats,
  timeOfRepeating,
} from '#core/alerts'
import { type Where } from '#core/rules'
import { recordEvent } from './alerts.ts'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { recordChange } from '../platform/record.ts'
import { readSite, type Site } from '../platform/settings.ts'
import { type GearScope, listGearScopes } from '../rules/subjects.ts'
import { quietReach } from './quietReach.ts'

export interface QuietRow {
  readonly id: number
  readonly what: 'quiet' | 'accept'
  readonly scope: QuietScope
  readonly reason: string
  readonly who: string
  readonly createdAtMs: number
  readonly first: QuietTime
  readonly repeats: string | null
  readonly accepted: Accepted | null
  /** The time that it is in, or the next; `null` when it is over, or when it cannot be said. */
  readonly time: QuietTime | null
  /** How it is kept is not understood here: it keeps nothing quiet, and somebody has to make it anew. */
  readonly isBroken: boolean
  readonly holds: boolean
  readonly isAnnounced: boolean
  readonly endedAtMs: number | null
  readonly endedBy: string | null
  readonly endedWhy: string | null
}

/** All that holds or will, and what ended since an instant. @param known the site, where it was read already */
export async function listQuiets(
  db: Db,
  nowMs: number,
  { endedSinceMs = nowMs, site: known }: { readonly endedSinceMs?: number; readonly site?: Site } = {},
): Promise<QuietRow[]> {
  const [rows, site] = await Promise.all([
    db
      .selectFrom('quiet')
      .selectAll()
      .where((eb) => eb.or([eb('endedAt', 'is', null), eb('endedAt', '>=', new Date(endedSinceMs))]))
      .orderBy('id')
      .execute(),
    known ?? readSite(db),
  ])
  return rows.map((row) => {
    const first = { fromMs: row.startsAt.getTime(), toMs: row.endsAt?.getTime() ?? null }
    const isBroken = row.repeats !== null && (!isRepeats(row.repeats) || first.toMs === null)
    const time = row.endedAt !== null || isBroken ? null : timeOf(first, row.repeats, nowMs, site.timeZone)
    return {
      id: row.id,
      what: row.what,
      scope: row.scope,
      reason: row.reason,
      who: row.who,
      createdAtMs: row.createdAt.getTime(),
      first,
      repeats: row.repeats,
      accepted: row.accepted,
      time,
      isBroken,
      holds: time !== null && holdsAt(time, nowMs),
      isAnnounced: row.announcedAt !== null,
      endedAtMs: row.endedAt?.getTime() ?? null,
      endedBy: row.endedBy,
      endedWhy: row.endedWhy,
    }
  })
}

function timeOf(first: QuietTime, repeats: string | null, nowMs: number, timeZone: string): QuietTime | null {
  const { fromMs, toMs } = first
  if (repeats === null || !isRepeats(repeats) || toMs === null)
    return toMs === null || toMs > nowMs ? first : null
  return timeOfRepeating({ fromMs, toMs }, repeats, nowMs, timeZone)
}

export interface NewQuiet {
  readonly scope: QuietScope
  readonly reason: string
  readonly who: string
  readonly fromMs: number
  readonly toMs: number | null
  readonly repeats: Repeats | null
}

export async function insertQuiet(db: Db, quiet: NewQuiet): Promise<number> {
  return within(db, async (trx) => {
    const { id } = await trx
      .insertInto('quiet')
      .values({
        what: 'quiet',
        scope: JSON.stringify(quiet.scope),
        reason: quiet.reason,
        who: quiet.who,
        startsAt: new Date(quiet.fromMs),
        endsAt: quiet.toMs === null ? null : new Date(quiet.toMs),
        repeats: quiet.repeats,
        accepted: null,
      })
      .returning('id')
      .executeTakeFirstOrThrow()
    await recordChange(trx, quiet.who, `quieted something: ${quiet.reason}`)
    await announce(trx, { topic: 'quiet' })
    return id
  })
}

export type AcceptOutcome =
  { readonly kind: 'accepted' } | { readonly kind: 'cleared' } | { readonly kind: 'unknown' }

/** “This is as it should be here”: an open alert, exactly as it is now. @param state its reading, when it is of a state */
export async function acceptAlert(
  db: Db,
  alertId: number,
  by: { readonly who: string; readonly reason: string; readonly at: Date; readonly state: number | null },
): Promise<AcceptOutcome> {
  return within(db, async (trx): Promise<AcceptOutcome> => {
    const alert = await trx
      .selectFrom('alert')
      .select(['ruleKey', 'subject', 'severity', 'gearId', 'partId', 'measure', 'clearedAt', 'title'])
      .where('id', '=', alertId)
      .forUpdate()
      .executeTakeFirst()
    if (alert === undefined) return { kind: 'unknown' }
    if (alert.clearedAt !== null) return { kind: 'cleared' }
    const where: Where =
      alert.partId !== null
        ? { kind: 'part', id: alert.partId }
        : alert.gearId !== null
          ? { kind: 'gear', id: alert.gearId }
          : { kind: 'everywhere' }
    const scope: QuietScope = { where, measure: alert.measure, ruleKey: alert.ruleKey }
    const accepted: Accepted = {
      ruleKey: alert.ruleKey,
      subject: alert.subject,
      severity: alert.severity,
      state: by.state,
    }
    const { id } = await trx
      .insertInto('quiet')
      .values({
        what: 'accept',
        scope: JSON.stringify(scope),
        reason: by.reason,
        who: by.who,
        startsAt: by.at,
        endsAt: null,
        repeats: null,
        accepted: JSON.stringify(accepted),
      })
      .returning('id')
      .executeTakeFirstOrThrow()
    await trx.updateTable('alert').set({ quietId: id }).where('id', '=', alertId).execute()
    await recordEvent(trx, alertId, {
      at: by.at,
      what: 'accepted',
      who: by.who,
      text: `${by.who} accepts it: ${by.reason}`,
    })
    await announce(trx, { topic: 'alerts' })
    await announce(trx, { topic: 'quiet' })
    return { kind: 'accepted' }
  })
}

/** Ends one before its time. @returns false when it has ended already */
export async function endQuiet(
  db: Db,
  id: number,
  end: { readonly at: Date; readonly by: string | null; readonly why: string | null },
): Promise<boolean> {
  const row = await db
    .updateTable('quiet')
    .set({ endedAt: end.at, endedBy: end.by, endedWhy: end.why })
    .where('id', '=', id)
    .where('endedAt', 'is', null)
    .returning('id')
    .executeTakeFirst()
  if (row === undefined) return false
  await announce(db, { topic: 'quiet' })
  return true
}

/** An open alert as quiets see it. */
export interface QuietableAlert {
  readonly id: number
  readonly ruleKey: string
  readonly subject: string
  readonly seriesId: number | null
  readonly sourceId: number | null
  readonly severity: 'critical' | 'warning'
  readonly title: string
  readonly reason: string
  readonly quietId: number | null
  readonly measure: QuietSubject['measure']
  readonly partId: number | null
  /** The gear that it is about; of a source all that it tells of. */
  readonly gearIds: readonly number[]
}

const QUIETABLE = [
  'id',
  'ruleKey',
  'subject',
  'seriesId',
  'sourceId',
  'severity',
  'title',
  'reason',
  'quietId',
  'measure',
  'partId',
] as const

export async function listQuietable(db: Db, ids?: readonly number[]): Promise<QuietableAlert[]> {
  const rows = await db
    .selectFrom('alert')
    .select([
      ...QUIETABLE,
      sql<number[]>`case when gear_id is not null then array[gear_id]
        else array(select gear_id from sighting where sighting.source_id = alert.source_id) end`.as(
        'gearIds',
      ),
    ])
    .where('clearedAt', 'is', null)
    .$if(ids !== undefined, (query) => query.where(sql<boolean>`id = any(${[...(ids ?? [])]}::int[])`))
    .orderBy('id')
    .execute()
  return rows
}

/**
 * Which of the quiets that hold covers each alert. An alert about a source is covered when all of its gear is. What is
 * accepted covers the very alert that was accepted, and no other. What the application says of itself is quiet when that
 * very alert is.
 */
export async function coversOf(
  db: Db,
  quiets: readonly QuietRow[],
  alerts: readonly QuietableAlert[],
): Promise<Map<number, QuietRow>> {
  const holding = quiets.filter(({ holds }) => holds)
  if (holding.length === 0 || alerts.length === 0) return new Map()
  const reaches = await reachesOf(
    db,
    holding.filter(({ what }) => what === 'quiet'),
  )
  const found = new Map<number, QuietRow>()
  for (const alert of alerts) {
    const quiet = holding.find(({ id, what, scope, accepted }) => {
      if (what === 'accept') return accepted?.ruleKey === alert.ruleKey && accepted.subject === alert.subject
      const { ruleKey, measure, partId } = alert
      const { scopes, silent } = reaches.get(id)!
      if (scope.isOff === true && !isOfBeingOff(alert)) return false
      const gear = standing(alert.gearIds.flatMap((gearId) => scopes.get(gearId) ?? []))
      if (gear.length === 0) return scope.where.kind === 'everywhere' && scope.ruleKey === ruleKey
      return gear.every(
        (each) =>
          (scope.where.kind === 'part' || silent.has(each.gearId)) &&
          isQuieted(scope, { ...each, ruleKey, measure, partId }),
      )
    })
    if (quiet !== undefined) found.set(alert.id, quiet)
  }
  return found
}

/** That something is off, or that nothing is heard of it. */
const isOfBeingOff = ({ ruleKey, sourceId, measure }: QuietableAlert): boolean =>
  ruleKey === OFF_RULE || (sourceId !== null && measure === null)

/** Of what a source tells of the gear that stands somewhere; what runs or lies on that is quiet with it. */
function standing(gear: readonly GearScope[]): readonly GearScope[] {
  const placed = gear.filter(({ gearKind }) => !runsOnOthers(gearKind))
  return placed.length === 0 ? gear : placed
}

/** What each quiet takes along. */
async function reachesOf(
  db: Db,
  quiets: readonly QuietRow[],
): Promise<Map<number, Pick<QuietReach, 'silent'> & { readonly scopes: ReadonlyMap<number, GearScope> }>> {
  if (quiets.length === 0) return new Map()
  const scopes = await listGearScopes(db)
  const reach = await quietReach(db, scopes)
  return new Map(quiets.map(({ id, scope }) => [id, { scopes, silent: reach(scope).silent }]))
}

/**
 * Which of these alerts, at the instant that each opened, lie under a quiet: they are marked so, and nobody is told.
 */
export async function quietFromTheStart(
  trx: Db,
  alerts: readonly { readonly alertId: number; readonly atMs: number }[],
): Promise<ReadonlySet<number>> {
  const any = await trx
    .selectFrom('quiet')
    .select('id')
    .where('endedAt', 'is', null)
    .limit(1)
    .executeTakeFirst()
  const quiet = new Set<number>()
  if (any === undefined) return quiet
  for (const atMs of new Set(alerts.map((each) => each.atMs))) {
    const ids = alerts.filter((each) => each.atMs === atMs).map(({ alertId }) => alertId)
    const quietable = await listQuietable(trx, ids)
    const covers = await coversOf(trx, await listQuiets(trx, atMs), quietable)
    for (const { id, quietId } of quietable) {
      const cover = covers.get(id)
      if (quietId === null && cover !== undefined) await markQuiet(trx, id, cover, atMs)
      if (quietId !== null || cover !== undefined) quiet.add(id)
    }
  }
  return quiet
}

export async function markQuiet(trx: Db, alertId: number, quiet: QuietRow, atMs: number): Promise<void> {
  await trx.updateTable('alert').set({ quietId: quiet.id }).where('id', '=', alertId).execute()
  await recordEvent(trx, alertId, {
    at: new Date(atMs),
    what: 'quieted',
    who: quiet.who,
    text:
      quiet.what === 'accept'
        ? `Accepted by ${quiet.who}: ${quiet.reason}`
        : `Quieted by ${quiet.who}: ${quiet.reason}`,
  })
  await announce(trx, { topic: 'alerts' })
}

/** The quiet is over, and the alert still holds. */
export async function unmarkQuiet(trx: Db, alertId: number, why: string, atMs: number): Promise<void> {
  await trx.updateTable('alert').set({ quietId: null }).where('id', '=', alertId).execute()
  await recordEvent(trx, alertId, { at: new Date(atMs), what: 'unquieted', who: null, text: why })
  await announce(trx, { topic: 'alerts' })
}

/** Whether anything that is open is quiet. */
export async function isAnyQuiet(db: Db): Promise<boolean> {
  const row = await db
    .selectFrom('alert')
    .select('id')
    .where('clearedAt', 'is', null)
    .where('quietId', 'is not', null)
    .limit(1)
    .executeTakeFirst()
  return row !== undefined
}

/** Says on what a quiet covers that it is about to end; it is said once. */
export async function announceEnd(
  db: Db,
  end: {
    readonly quietId: number
    readonly alertIds: readonly number[]
    readonly text: string
    readonly atMs: number
  },
): Promise<void> {
  const at = new Date(end.atMs)
  await within(db, async (trx) => {
    await trx.updateTable('quiet').set({ announcedAt: at }).where('id', '=', end.quietId).execute()
    for (const alertId of end.alertIds)
      await recordEvent(trx, alertId, { at, what: 'quiet ends', who: null, text: end.text })
    await announce(trx, { topic: 'quiet' })
  })
}
