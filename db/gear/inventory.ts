import { sql } from 'kysely'
import type { PartKind } from '#core/catalogue'
import type { OwnFieldKind } from '#core/gear'
import type { Db } from '../platform/connect.ts'

export interface OwnField {
  readonly id: number
  readonly name: string
  readonly kind: OwnFieldKind
}

export const listOwnFields = (db: Db): Promise<OwnField[]> =>
  db.selectFrom('ownField').select(['id', 'name', 'kind']).orderBy('name').execute()

export async function insertOwnField(db: Db, name: string, kind: OwnFieldKind): Promise<void> {
  await db.insertInto('ownField').values({ name, kind }).execute()
}

/** Takes a field away, with what stood in it. */
export async function deleteOwnField(db: Db, id: number): Promise<void> {
  const gone = await db.deleteFrom('ownField').where('id', '=', id).returning('name').executeTakeFirst()
  if (gone !== undefined)
    await db
      .updateTable('gear')
      .set({ own: sql`own - ${gone.name}::text` })
      .where(sql<boolean>`own ? ${gone.name}::text`)
      .execute()
}

/** What people write down of a gear. A field that is `null` is emptied; one that is left out stays. */
export async function writeOwn(
  db: Db,
  gearId: number,
  change: {
    readonly warrantyEnds?: string | null
    readonly own?: Readonly<Record<string, string | null>>
  },
): Promise<void> {
  const entries = Object.entries(change.own ?? {})
  const set = Object.fromEntries(entries.filter(([, value]) => value !== null))
  const emptied = entries.flatMap(([name, value]) => (value === null ? [name] : []))
  await db
    .updateTable('gear')
    .set({
      ...(change.warrantyEnds === undefined ? {} : { warrantyEnds: change.warrantyEnds }),
      own: sql`(own || ${JSON.stringify(set)}::jsonb) - ${emptied}::text[]`,
    })
    .where('id', '=', gearId)
    .execute()
}

export interface SavedFilter {
  readonly id: number
  readonly name: string
  readonly query: string
  readonly who: string
}

export const listFilters = (db: Db): Promise<SavedFilter[]> =>
  db.selectFrom('savedFilter').selectAll().orderBy('name').execute()

/** Keeps a filter under a name; one of the same name is replaced. */
export async function saveFilter(db: Db, filter: Omit<SavedFilter, 'id'>): Promise<void> {
  await db
    .insertInto('savedFilter')
    .values(filter)
    .onConflict((conflict) => conflict.column('name').doUpdateSet({ query: filter.query, who: filter.who }))
    .execute()
}

export async function deleteFilter(db: Db, id: number): Promise<void> {
  await db.deleteFrom('savedFilter').where('id', '=', id).execute()
}

export interface FeedRow {
  readonly gearId: number
  readonly feeds: string[]
  readonly lastHeardAt: Date | null
  readonly sources: string[]
}

/** Of each gear what feeds it, what sees it, and when that was heard last. */
export async function listFeeds(db: Db, gearId: number | null = null): Promise<Map<number, FeedRow>> {
  const only = (column: string) => (gearId === null ? sql`true` : sql`${sql.ref(column)} = ${gearId}::int`)
  const { rows } = await sql<FeedRow>`
    select gear.id as "gearId", coalesce(fed.names, '{}') as feeds, seen."lastHeardAt", coalesce(seen.names, '{}') as sources
    from gear
    left join (
      select from_gear_id, array_agg(distinct other.name order by other.name) as names
      from link join gear other on other.id = link.to_gear_id
      where link.kind = 'fed-by' and ${only('from_gear_id')} group by from_gear_id
    ) fed on fed.from_gear_id = gear.id
    left join (
      select gear_id, max(source.last_heard_at) as "lastHeardAt", array_agg(distinct source.name order by source.name) as names
      from sighting join source on source.id = sighting.source_id
      where ${only('gear_id')} group by gear_id
    ) seen on seen.gear_id = gear.id
    where merged_into is null and ${only('gear.id')}`.execute(db.withoutPlugins())
  return new Map(rows.map((row) => [row.gearId, row]))
}

export interface BookedPart {
  readonly id: number
  readonly gearId: number
  readonly name: string
  readonly kind: PartKind
  readonly facts: Record<string, string>
  readonly firstSeenAt: Date | null
}

export interface PartCount {
  readonly count: number
  /** In how many gear. */
  readonly gear: number
  readonly kinds: readonly PartKind[]
}

/** How many parts there are now. */
export async function countParts(db: Db): Promise<PartCount> {
  const { rows } = await sql<PartCount>`
    select count(*)::int as count, count(distinct gear_id)::int as gear,
      coalesce(array_agg(distinct part.kind), '{}') as kinds
    from part join gear on gear.id = part.gear_id and gear.merged_into is null
    where part.is_present`.execute(db)
  return rows[0]!
}

/**
 * Parts that are there now, by gear, with when each was first seen.
 * @param most the first of them; all when not said
 */
export async function listAllParts(db: Db, most?: number): Promise<BookedPart[]> {
  const { rows } = await sql<BookedPart>`
    select part.id, part.gear_id as "gearId", part.name, part.kind, part.facts, min(item.first_seen_at) as "firstSeenAt"
    from part join gear on gear.id = part.gear_id and gear.merged_into is null
    left join source_item item on item.part_id = part.id
    where part.is_present group by part.id, gear.name order by gear.name, part.id limit ${most ?? null}`.execute(
    db,
  )
  return rows
}
