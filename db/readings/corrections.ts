import { sql } from 'kysely'
import type { Db } from '../platform/connect.ts'

export interface CorrectedReading {
  readonly seriesId: number
  readonly atMs: number
  readonly was: number
  readonly became: number
}

/** Keeps the values that were replaced by later, different ones for the same instant. */
export async function recordCorrections(trx: Db, corrections: readonly CorrectedReading[]): Promise<void> {
  if (corrections.length === 0) return
  await sql`
    insert into correction (series_id, at_ms, was, became)
    select * from unnest(
      ${corrections.map((each) => each.seriesId)}::int[],
      ${corrections.map((each) => each.atMs)}::bigint[],
      ${corrections.map((each) => each.was)}::float8[],
      ${corrections.map((each) => each.became)}::float8[])`.execute(trx)
}
