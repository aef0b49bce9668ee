import { sql } from 'kysely'
import type { Db } from '../platform/connect.ts'
import type { Attempt } from './tables.ts'

export interface TurnedAway {
  readonly address: string
  readonly what: Attempt
  /** Why it was turned away the last time, in words. */
  readonly reason: string
  readonly count: number
  readonly firstAt: Date
  readonly lastAt: Date
}

/** Addresses that are remembered; those not heard for longest go first. */
const MOST_ADDRESSES = 500

/** Adds to what is known of some addresses. */
export async function recordTurnedAway(db: Db, met: readonly TurnedAway[]): Promise<void> {
  if (met.length === 0) return
  await sql`
    insert into turned_away (address, what, reason, count, first_at, last_at)
    select * from unnest(
      ${met.map((each) => each.address)}::text[], ${met.map((each) => each.what)}::text[],
      ${met.map((each) => each.reason)}::text[], ${met.map((each) => each.count)}::int[],
      ${met.map((each) => each.firstAt)}::timestamptz[], ${met.map((each) => each.lastAt)}::timestamptz[])
    on conflict (address, what) do update set
      reason = excluded.reason, last_at = excluded.last_at,
      count = least(turned_away.count::bigint + excluded.count, 2000000000)::int`.execute(db)
  await sql`
    delete from turned_away where (address, what) in (
      select address, what from turned_away order by last_at desc offset ${MOST_ADDRESSES})`.execute(db)
}

/** Who was turned away since an instant, the last one first. */
export const listTurnedAway = (db: Db, since: Date, most: number): Promise<TurnedAway[]> =>
  db
    .selectFrom('turnedAway')
    .select(['address', 'what', 'reason', 'count', 'firstAt', 'lastAt'])
    .where('lastAt', '>=', since)
    .orderBy('lastAt', 'desc')
    .orderBy('address')
    .limit(most)
    .execute()
