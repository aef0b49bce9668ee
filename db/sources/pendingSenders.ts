import { sql } from 'kysely'
import type { Findings } from '#core/gear'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { insertSource } from './sources.ts'

/** Beyond it further senders are turned away: whoever guesses addresses must not fill the disk. */
const MOST_SENDERS = 50
/** A day of one push a minute, and the oldest go first. */
const MOST_PUSHES = 1440
const SOURCES = 'sources'

export interface PendingMoment {
  readonly atMs: number
  readonly findings: Findings
}

export interface PendingSender {
  readonly id: number
  readonly address: string
  readonly firstAt: Date
  readonly lastAt: Date
  readonly pushes: number
  /** Names of the gear that it tells of, with their kinds. */
  readonly gear: readonly { readonly name: string; readonly kind: string }[]
  readonly readings: number
}

export type PendingOutcome = 'kept' | 'refused' | 'tooMany'

/** Keeps a push of a sender that is not known, until somebody claims or refuses it. */
export async function keepPending(db: Db, push: PendingPush): Promise<PendingOutcome> {
  return within(db, async (trx) => {
    const known = await trx
      .selectFrom('pendingSender')
      .select(['id', 'isRefused'])
      .where('tokenHash', '=', push.tokenHash)
      .forUpdate()
      .executeTakeFirst()
    if (known?.isRefused === true) return 'refused'
    if (known === undefined && (await countPending(trx)) >= MOST_SENDERS) return 'tooMany'
    const { id, pushes } = await writeSender(trx, push)
    await trx
      .insertInto('pendingPush')
      .values({ senderId: id, heardAt: push.heardAt, moments: JSON.stringify(push.moments) })
      .execute()
    if (pushes > MOST_PUSHES)
      await sql`
        delete from pending_push where sender_id = ${id} and id < (
          select id from pending_push where sender_id = ${id} order by id desc offset ${MOST_PUSHES - 1} limit 1
        )`.execute(trx)
    if (known === undefined) await announce(trx, { topic: SOURCES, sourceId: 0 })
    return 'kept'
  })
}

export interface PendingPush {
  readonly tokenHash: Buffer
  readonly address: string
  readonly heardAt: Date
  readonly moments: readonly PendingMoment[]
}

async function countPending(trx: Db): Promise<number> {
  const { count } = await trx
    .selectFrom('pendingSender')
    .select((eb) => eb.fn.countAll<string>().as('count'))
    .where('sourceId', 'is', null)
    .executeTakeFirstOrThrow()
  return Number(count)
}

/** What a sender said last, and how often it has said anything. */
function writeSender(trx: Db, { tokenHash, address, heardAt, moments }: PendingPush) {
  const last = moments.at(-1)?.findings
  const gear = JSON.stringify(last?.gear.map(({ name, kind }) => ({ name, kind })) ?? [])
  const readings = last?.readings.length ?? 0
  return trx
    .insertInto('pendingSender')
    .values({ tokenHash, address, firstAt: heardAt, lastAt: heardAt, pushes: 1, gear, readings })
    .onConflict((conflict) =>
      conflict.column('tokenHash').doUpdateSet((eb) => ({
        address: eb.ref('excluded.address'),
        lastAt: eb.ref('excluded.lastAt'),
        pushes: eb('pendingSender.pushes', '+', 1),
        gear: eb.ref('excluded.gear'),
        readings: eb.ref('excluded.readings'),
      })),
    )
    .returning(['id', 'pushes'])
    .executeTakeFirstOrThrow()
}

/** Senders that wait for somebody's word, the oldest first. */
export const listPending = (db: Db): Promise<PendingSender[]> =>
  db
    .selectFrom('pendingSender')
    .select(['id', 'address', 'firstAt', 'lastAt', 'pushes', 'gear', 'readings'])
    .where('sourceId', 'is', null)
    .where('isRefused', '=', false)
    .orderBy('firstAt')
    .execute()

/**
 * Makes a source of a waiting sender. What it pushes goes there from now on, and a collector brings in what it has pushed
 * before.
 * @returns the id of the source, or `null` when it does not wait any more
 */
export async function claimSender(
  db: Db,
  claim: { readonly id: number; readonly name: string; readonly intervalSeconds: number },
): Promise<number | null> {
  return within(db, async (trx) => {
    const sender = await trx
      .selectFrom('pendingSender')
      .select(['tokenHash', 'address'])
      .where('id', '=', claim.id)
      .where('sourceId', 'is', null)
      .forUpdate()
      .executeTakeFirst()
    if (sender === undefined) return null
    const sourceId = await insertSource(trx, {
      name: claim.name,
      protocol: 'otlp',
      address: `pushes from ${sender.address}`,
      settings: {},
      intervalSeconds: claim.intervalSeconds,
      credentialId: null,
      token: null,
      tokenHash: sender.tokenHash,
    })
    await trx.updateTable('pendingSender').set({ sourceId }).where('id', '=', claim.id).execute()
    return sourceId
  })
}

/** Turns a sender away for good; what it pushed is dropped. */
export async function refuseSender(db: Db, id: number): Promise<void> {
  await within(db, async (trx) => {
    await trx.updateTable('pendingSender').set({ isRefused: true }).where('id', '=', id).execute()
    await trx.deleteFrom('pendingPush').where('senderId', '=', id).execute()
  })
  await announce(db, { topic: SOURCES, sourceId: 0 })
}

/**
 * Brings in the oldest push of a sender that was claimed: it is gone only when `deliver` has made it safe, and one that
 * another collector is bringing in is passed over.
 * @returns false when there is none
 */
export async function deliverClaimed(
  db: Db,
  deliver: (sourceId: number, heardAt: Date, moments: readonly PendingMoment[]) => Promise<void>,
): Promise<boolean> {
  return within(db, async (trx) => {
    const { rows } = await sql<{ id: string; sourceId: number; heardAt: Date; moments: PendingMoment[] }>`
      select p.id, s.source_id as "sourceId", p.heard_at as "heardAt", p.moments
      from pending_push p join pending_sender s on s.id = p.sender_id
      where s.source_id is not null order by p.id limit 1 for update of p skip locked`.execute(trx)
    const push = rows[0]
    if (push === undefined) return false
    await deliver(push.sourceId, push.heardAt, push.moments)
    await trx.deleteFrom('pendingPush').where('id', '=', push.id).execute()
    return true
  })
}
