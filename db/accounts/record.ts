import type { DifferingRow } from '#core/accounts'
import { sql } from 'kysely'
import type { Db } from '../platform/connect.ts'
import type { RecordKind } from '../platform/tables.ts'

/** One line of the record: who did what, from where, and what came of it. */
export interface Recorded {
  readonly id: number
  readonly at: Date
  readonly who: string
  readonly what: string
  readonly kind: RecordKind
  readonly outcome: 'done' | 'refused'
  readonly accountId: string | null
  readonly address: string | null
  readonly rows: readonly DifferingRow[]
}

export interface RecordFilter {
  /** Words that must all stand in who, what or the address, or in what was and is. */
  readonly words: readonly string[]
  readonly kind: RecordKind | null
  readonly outcome: 'done' | 'refused' | null
  readonly fromMs: number | null
  readonly toMs: number | null
}

const likeness = (word: string): string => `%${word.replaceAll(/[\\%_]/g, '\\$&')}%`

function filtered(db: Db, { words, kind, outcome, fromMs, toMs }: RecordFilter) {
  let query = db.selectFrom('change')
  if (kind !== null) query = query.where('kind', '=', kind)
  if (outcome !== null) query = query.where('outcome', '=', outcome)
  if (fromMs !== null) query = query.where('at', '>=', new Date(fromMs))
  if (toMs !== null) query = query.where('at', '<', new Date(toMs))
  for (const word of words)
    query = query.where(
      sql<boolean>`(concat_ws(' ', who, what, address) ilike ${likeness(word)} or exists (
        select 1 from change_row where change_row.act = change.act
          and concat_ws(' ', name, before::text, after::text) ilike ${likeness(word)}))`,
    )
  return query
}

/** The newest lines that fit. @param beforeId of the page before: the last line that stood on it */
export async function listRecord(
  db: Db,
  filter: RecordFilter,
  most: number,
  beforeId: number | null = null,
): Promise<Recorded[]> {
  let query = filtered(db, filter)
  if (beforeId !== null) query = query.where('id', '<', beforeId)
  const lines = await query.selectAll().orderBy('id', 'desc').limit(most).execute()
  const rows = await rowsOfActs(
    db,
    lines.flatMap(({ act }) => act ?? []),
  )
  return lines.map(({ act, ...line }) => ({
    ...line,
    rows: act === null ? [] : (rows.get(act) ?? []),
  }))
}

/** What was changed by each of some acts. */
async function rowsOfActs(db: Db, acts: readonly string[]): Promise<Map<string, DifferingRow[]>> {
  const ofAct = new Map<string, DifferingRow[]>()
  if (acts.length === 0) return ofAct
  const rows = await db
    .selectFrom('changeRow')
    .select(['act', 'of', 'name', 'before', 'after'])
    .where(sql<boolean>`act = any(${[...acts]}::uuid[])`)
    .orderBy('id')
    .execute()
  for (const { act, ...row } of rows) ofAct.set(act, [...(ofAct.get(act) ?? []), row])
  return ofAct
}

export async function countRecord(db: Db, filter: RecordFilter): Promise<number> {
  const row = await filtered(db, filter)
    .select((eb) => eb.fn.countAll<string>().as('count'))
    .executeTakeFirstOrThrow()
  return Number(row.count)
}
