import { sql } from 'kysely'
import type { Findings } from '#core/gear'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { insertItems, itemsIn } from './items.ts'
import { insertSource } from './sources.ts'
import type { KeptPush } from './tables.ts'

/** Beyond it further senders are turned away: whoever guesses addresses must not fill the disk. */
const MOST_SENDERS = 50
const MOST_OF_AN_ADDRESS = 5
/** A day of one push a minute, and the oldest go first. */
const MOST_PUSHES = 1440
const MOST_BYTES = { push: 512 * 1024, sender: 8 * 1024 * 1024, all: 64 * 1024 * 1024 } as const
/** One that was refused may ask again after this; one that is not heard any more is forgotten. */
const REFUSED_DAYS = 30
const UNHEARD_DAYS = 2
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

export type PendingOutcome = 'kept' | 'refused' | 'tooMany' | 'tooLarge'

export const keptPush = (moments: readonly PendingMoment[]): KeptPush => {
  const { gear, links, farLinks } = moments.at(-1)?.findings ?? { gear: [], links: [], farLinks: undefined }
  return {
    shared: { gear, links, ...(farLinks === undefined ? {} : { farLinks }) },
    moments: moments.map(({ atMs, findings: { gear: _, links: __, farLinks: ___, ...rest } }) => ({
      atMs,
      ...rest,
    })),
  }
}

/** The moments of a push as it was kept; of one from before `KeptPush` as it stands. */
const momentsIn = (kept: KeptPush | readonly PendingMoment[]): readonly PendingMoment[] =>
  'shared' in kept
    ? kept.moments.map(({ atMs, ...rest }) => ({ atMs, findings: { ...kept.shared, ...rest } }))
    : kept

/** Keeps a push of a sender that is not known, until somebody claims or refuses it. */
export async function keepPending(db: Db, push: PendingPush): Promise<PendingOutcome> {
  const moments = JSON.stringify(keptPush(push.moments))
  const bytes = Buffer.byteLength(moments)
  if (bytes > MOST_BYTES.push) return 'tooLarge'
  return within(db, async (trx) => {
    await forgetOld(trx, push.heardAt)
    const known = await trx
      .selectFrom('pendingSender')
      .select(['id', 'isRefused'])
      .where('tokenHash', '=', push.tokenHash)
      .forUpdate()
      .executeTakeFirst()
    if (known?.isRefused === true) return 'refused'
    if (known === undefined && !(await hasRoom(trx, push.address))) return 'tooMany'
    const { id } = await writeSender(trx, push)
    await trx
      .insertInto('pendingPush')
      .values({ senderId: id, heardAt: push.heardAt, moments, bytes })
      .execute()
    await keepWithin(trx, id)
    if (known === undefined) await announce(trx, { topic: SOURCES, sourceId: 0 })
    return 'kept'
  })
}

/** Senders that were refused long ago, and those that have stopped, are forgotten with what they pushed. */
async function forgetOld(trx: Db, now: Date): Promise<void> {
  const before = (days: number): Date => new Date(now.getTime() - days * 86_400_000)
  await trx
    .deleteFrom('pendingSender')
    .where('sourceId', 'is', null)
    .where((eb) =>
      eb.or([
        eb('refusedAt', '<', before(REFUSED_DAYS)),
        eb.and([eb('isRefused', '=', false), eb('lastAt', '<', before(UNHEARD_DAYS))]),
      ]),
    )
    .execute()
}

/** Those that were refused do not count, and one address does not take the room of all others. */
async function hasRoom(trx: Db, address: string): Promise<boolean> {
  const { all, own } = await trx
    .selectFrom('pendingSender')
    .select((eb) => [
      eb.fn.countAll<string>().as('all'),
      eb.fn.countAll<string>().filterWhere('address', '=', address).as('own'),
    ])
    .where('sourceId', 'is', null)
    .where('isRefused', '=', false)
    .executeTakeFirstOrThrow()
  return Number(all) < MOST_SENDERS && Number(own) < MOST_OF_AN_ADDRESS
}

/** The oldest pushes go while a sender, or all of them, take more than so much. */
async function keepWithin(trx: Db, senderId: number): Promise<void> {
  await sql`
    delete from pending_push where id in (
      select id from (
        select id, row_number() over newest as place, sum(bytes) over newest as total from pending_push
        where sender_id = ${senderId} window newest as (order by id desc)
      ) own where place > ${MOST_PUSHES} or total > ${MOST_BYTES.sender})`.execute(trx)
  await sql`
    delete from pending_push where id in (
      select id from (
        select push.id, sum(bytes) over (order by push.id desc) as total
        from pending_push push join pending_sender sender on sender.id = push.sender_id where source_id is null
      ) every where total > ${MOST_BYTES.all})`.execute(trx)
}

export interface PendingPush {
  readonly tokenHash: Buffer
  readonly address: string
  readonly heardAt: Date
  readonly moments: readonly PendingMoment[]
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
    const sender = await lockUnclaimed(trx, claim.id)
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
    await bindToShown(trx, claim.id, sourceId)
    return sourceId
  })
}

const lockUnclaimed = (trx: Db, id: number) =>
  trx
    .selectFrom('pendingSender')
    .select(['tokenHash', 'address'])
    .where('id', '=', id)
    .where('sourceId', 'is', null)
    .forUpdate()
    .executeTakeFirst()

/** The sender may speak for the gear that was shown when it was claimed: that of its last push. */
async function bindToShown(trx: Db, senderId: number, sourceId: number): Promise<void> {
  const last = await trx
    .selectFrom('pendingPush')
    .select('moments')
    .where('senderId', '=', senderId)
    .orderBy('id', 'desc')
    .limit(1)
    .executeTakeFirst()
  const findings = last === undefined ? undefined : momentsIn(last.moments).at(-1)?.findings
  if (findings !== undefined) await insertItems(trx, sourceId, itemsIn(findings))
}

/** Turns a sender away for good; what it pushed is dropped. */
export async function refuseSender(db: Db, id: number): Promise<void> {
  await within(db, async (trx) => {
    await trx
      .updateTable('pendingSender')
      .set({ isRefused: true, refusedAt: new Date() })
      .where('id', '=', id)
      .execute()
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
    const { rows } = await sql<{
      id: string
      sourceId: number
      heardAt: Date
      moments: KeptPush | PendingMoment[]
    }>`
      select p.id, s.source_id as "sourceId", p.heard_at as "heardAt", p.moments
      from pending_push p join pending_sender s on s.id = p.sender_id
      where s.source_id is not null order by p.id limit 1 for update of p skip locked`.execute(trx)
    const push = rows[0]
    if (push === undefined) return false
    await deliver(push.sourceId, push.heardAt, momentsIn(push.moments))
    await trx.deleteFrom('pendingPush').where('id', '=', push.id).execute()
    return true
  })
}
