import { sql } from 'kysely'
import type { MeasureKey } from '#core/catalogue'
import type { Severity } from '#core/rules'
import type { Db } from '../platform/connect.ts'

/** A series that tells whether its gear works, or by which it is seen that it was heard. */
export interface WitnessRow {
  readonly id: number
  readonly gearId: number
  readonly sourceId: number
  readonly measure: MeasureKey
}

/**
 * The series of some gear that tell whether they work; of gear without any, one by which it is seen that it was heard: of
 * several sources one each.
 */
export async function listWitnesses(
  db: Db,
  gearIds: readonly number[],
  measures: readonly MeasureKey[],
): Promise<WitnessRow[]> {
  if (gearIds.length === 0) return []
  const { rows } = await sql<WitnessRow>`
    with own as (
      select id, gear_id, source_id, measure,
        (measure = any(${[...measures]}::text[]) and part_id is null) as tells
      from series where gear_id = any(${[...gearIds]}::int[])
    ), first as (
      select distinct on (gear_id, source_id) id from own
      where not exists (select from own other where other.gear_id = own.gear_id and other.tells)
      order by gear_id, source_id, id
    )
    select id, gear_id as "gearId", source_id as "sourceId", measure from own
    where tells or id in (select id from first) order by gear_id, id`.execute(db.withoutPlugins())
  return rows
}

export interface TroubleRow {
  readonly id: number
  readonly gearId: number
  readonly severity: Severity
  readonly title: string
  readonly sinceAt: Date
  readonly clearedAt: Date | null
}

/** Alerts of some gear that touched a span, the first opened first. */
export async function listTroubles(
  db: Db,
  gearIds: readonly number[],
  { fromMs, toMs }: { readonly fromMs: number; readonly toMs: number },
): Promise<TroubleRow[]> {
  if (gearIds.length === 0) return []
  const rows = await db
    .selectFrom('alert')
    .select(['id', 'gearId', 'severity', 'title', 'sinceAt', 'clearedAt'])
    .where(sql<boolean>`gear_id = any(${[...gearIds]}::int[])`)
    .where('sinceAt', '<=', new Date(toMs))
    .where((eb) => eb.or([eb('clearedAt', 'is', null), eb('clearedAt', '>=', new Date(fromMs))]))
    .orderBy('sinceAt')
    .limit(5000)
    .execute()
  return rows.flatMap(({ gearId, ...row }) => (gearId === null ? [] : [{ gearId, ...row }]))
}
