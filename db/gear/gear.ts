import type { Identity } from '#core/gear'
import { sql } from 'kysely'
import type { GearKind, MeasureKey, PartKind } from '#core/catalogue'
import type { Face } from '#core/site'
import { recordGearChanges } from './changes.ts'
import type { Db } from '../platform/connect.ts'

export interface GearRow {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly facts: Record<string, string>
  readonly rackId: number | null
  readonly rackName: string | null
  readonly roomId: number | null
  readonly roomName: string | null
  readonly unit: number | null
  readonly heightUnits: number | null
  readonly face: Face | null
  /** Where it stands on the floor of a room, and in no rack. */
  readonly floorRoomId: number | null
  readonly warrantyEnds: string | null
  readonly own: Record<string, string>
  readonly createdAt: Date
  readonly tags: string[]
  /** What a machine runs on, or what a store belongs to. */
  readonly onName: string | null
  readonly sourceIds: number[]
}

// Each of these is made once for all gear; as a question of each row it would be asked thousands of times.

/** What a gear runs on, or belongs to: of several the first by name. */
const hosts = (db: Db) =>
  db
    .selectFrom('link')
    .innerJoin('gear as other', 'other.id', 'link.fromGearId')
    .select(['link.toGearId as gearId', (eb) => eb.fn.min('other.name').as('onName')])
    .where('link.kind', 'in', ['hosts', 'stores-on', 'contains'])
    .where('other.kind', 'in', ['server', 'chassis'])
    .groupBy('link.toGearId')
    .as('host')

const seenBy = (db: Db) =>
  db
    .selectFrom('sighting')
    .select(['gearId', sql<number[]>`array_agg(distinct source_id order by source_id)`.as('sourceIds')])
    .groupBy('gearId')
    .as('seen')

const rows = (db: Db) =>
  db
    .selectFrom('gear')
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('floorPlace', 'floorPlace.gearId', 'gear.id')
    .leftJoin('room', (join) =>
      join.on((eb) => eb('room.id', '=', eb.fn.coalesce('rack.roomId', 'floorPlace.roomId'))),
    )
    .leftJoin(hosts(db), (join) => join.onRef('host.gearId', '=', 'gear.id'))
    .leftJoin(seenBy(db), (join) => join.onRef('seen.gearId', '=', 'gear.id'))
    .select([
      'gear.id',
      'gear.name',
      'gear.kind',
      'gear.facts',
      'gear.rackId',
      'rack.name as rackName',
      'room.id as roomId',
      'room.name as roomName',
      'gear.unit',
      'gear.heightUnits',
      'gear.face',
      'floorPlace.roomId as floorRoomId',
      sql<string | null>`gear.warranty_ends::text`.as('warrantyEnds'),
      'gear.own',
      'gear.createdAt',
      'gear.tags',
      'host.onName',
      sql<number[]>`coalesce(seen.source_ids, '{}')`.as('sourceIds'),
    ])

/**
 * Gear by name, without what was merged into another.
 * @param most the first of it; all when not said
 * @param first what comes before all else
 */
export const listGear = (db: Db, most?: number, first: readonly number[] = []): Promise<GearRow[]> =>
  rows(db)
    .where('gear.mergedInto', 'is', null)
    .$if(first.length > 0, (query) => query.orderBy((eb) => eb('gear.id', 'in', [...first]), 'desc'))
    .orderBy('gear.name')
    .orderBy('gear.id')
    .$if(most !== undefined, (query) => query.limit(most!))
    .execute()

export const findGear = (db: Db, id: number): Promise<GearRow | undefined> =>
  rows(db).where('gear.id', '=', id).executeTakeFirst()

/** What has to be known of a gear before it is asked to stop. */
export async function findStoppable(db: Db, id: number) {
  const [gear, seen, identities] = await Promise.all([
    nameOfGear(db, id),
    db.selectFrom('sighting').select('sourceId').where('gearId', '=', id).execute(),
    db
      .selectFrom('gearIdentity')
      .select(['kind', 'value'])
      .where('gearId', '=', id)
      .where('kind', 'in', ['uuid', 'serial'])
      .execute(),
  ])
  if (gear === undefined) return undefined
  return {
    name: gear,
    sourceIds: seen.map(({ sourceId }) => sourceId),
    identities: identities as Identity[],
  }
}

/** Gear that can be asked to stop: it tells whether it is on, and is seen by a protocol that can ask. In order of names. */
export const listStoppable = (
  db: Db,
  protocols: readonly string[],
): Promise<{ readonly id: number; readonly name: string }[]> =>
  db
    .selectFrom('gear')
    .select(['id', 'name'])
    .where('mergedInto', 'is', null)
    .where(
      sql<boolean>`exists (
        select 1 from sighting join source on source.id = sighting.source_id
        where sighting.gear_id = gear.id and source.protocol = any(${[...protocols]}::text[]))`,
    )
    .where(
      sql<boolean>`exists (
        select 1 from series where series.gear_id = gear.id and series.part_id is null and measure = 'hw.power.state')`,
    )
    .where(
      sql<boolean>`exists (
        select 1 from gear_identity named where named.gear_id = gear.id and named.kind in ('uuid', 'serial'))`,
    )
    .orderBy('name')
    .execute()

export async function nameOfGear(db: Db, id: number): Promise<string | undefined> {
  return (await db.selectFrom('gear').select('name').where('id', '=', id).executeTakeFirst())?.name
}

export interface PartRow {
  readonly id: number
  readonly key: string
  readonly kind: PartKind
  readonly name: string
  readonly facts: Record<string, string>
}

export const listParts = (db: Db, gearId: number): Promise<PartRow[]> =>
  db
    .selectFrom('part')
    .select(['id', 'key', 'kind', 'name', 'facts'])
    .where('gearId', '=', gearId)
    .where('isPresent', '=', true)
    .orderBy('id')
    .execute()

export interface SeriesRow {
  readonly id: number
  readonly sourceId: number
  readonly gearId: number
  readonly partId: number | null
  readonly measure: MeasureKey
}

export const listSeries = (db: Db, gearIds: readonly number[]): Promise<SeriesRow[]> =>
  gearIds.length === 0
    ? Promise.resolve([])
    : db
        .selectFrom('series')
        .select(['id', 'sourceId', 'gearId', 'partId', 'measure'])
        .where('gearId', 'in', [...gearIds])
        .orderBy('id')
        .execute()

/**
 * The series beside some places, a gear as a whole or one of its parts: all of that place, and of one measure those of
 * the whole gear.
 */
export async function listSeriesBeside(
  db: Db,
  places: readonly { readonly gearId: number | null; readonly partId: number | null }[],
  measure: MeasureKey,
): Promise<SeriesRow[]> {
  const known = places.filter(({ gearId }) => gearId !== null)
  if (known.length === 0) return []
  const { rows } = await sql<SeriesRow>`
    select distinct series.id, source_id as "sourceId", series.gear_id as "gearId", series.part_id as "partId", measure
    from unnest(${known.map(({ gearId }) => gearId)}::int[], ${known.map(({ partId }) => partId)}::int[])
      as place (gear_id, part_id)
    join series on series.gear_id = place.gear_id
      and (series.part_id is not distinct from place.part_id or measure = ${measure})
    order by series.id`.execute(db.withoutPlugins())
  return rows
}

/** What is measured at all, by name. */
export async function listMeasures(db: Db): Promise<MeasureKey[]> {
  const rows = await db.selectFrom('series').select('measure').distinct().orderBy('measure').execute()
  return rows.map(({ measure }) => measure)
}

/** Changes what people say of a gear. */
export async function updateGear(
  db: Db,
  id: number,
  change: { readonly name: string; readonly tags: readonly string[] },
  who: string | null = null,
): Promise<void> {
  const before = await db.selectFrom('gear').select('name').where('id', '=', id).executeTakeFirst()
  await db
    .updateTable('gear')
    .set({ name: change.name, tags: [...change.tags] })
    .where('id', '=', id)
    .execute()
  if (before !== undefined && before.name !== change.name)
    await recordGearChanges(
      db,
      id,
      [{ what: 'renamed', subject: 'name', was: before.name, became: change.name }],
      who,
    )
}

/** Gives many gear a tag, or takes it from them. */
export async function tagMany(
  db: Db,
  ids: readonly number[],
  tag: string,
  does: 'give' | 'take',
): Promise<void> {
  await sql`
    update gear set tags = case when ${does === 'give'}
      then (select array_agg(distinct each order by each) from unnest(tags || ${tag}::text) as each)
      else array_remove(tags, ${tag}::text) end
    where id = any(${[...ids]}::int[])`.execute(db)
}

/** Adds tags to all gear that a source sees. */
export async function tagGearOfSource(db: Db, sourceId: number, tags: readonly string[]): Promise<void> {
  if (tags.length === 0) return
  await sql`
    update gear set tags = (select array_agg(distinct tag order by tag) from unnest(tags || ${[...tags]}::text[]) as tag)
    where id in (select gear_id from sighting where source_id = ${sourceId})`.execute(db)
}

/** Parts by their ids, with the gear that they are in. */
export function namesOfParts(db: Db, ids: readonly number[]) {
  if (ids.length === 0) return Promise.resolve([])
  return db
    .selectFrom('part')
    .innerJoin('gear', 'gear.id', 'part.gearId')
    .select(['part.id', 'part.name', 'gear.name as gearName'])
    .where('part.id', 'in', [...ids])
    .execute()
}

/** Series of some gear as a whole, of some measures; and of the air at the inlets of their parts. */
export async function listTelling(
  db: Db,
  gearIds: readonly number[],
  measures: readonly MeasureKey[],
): Promise<SeriesRow[]> {
  if (gearIds.length === 0) return []
  const { rows } = await sql<SeriesRow>`
    select id, source_id as "sourceId", gear_id as "gearId", part_id as "partId", measure from series
      where gear_id = any(${[...gearIds]}::int[]) and part_id is null and measure = any(${[...measures]}::text[])
    union all
    select series.id, source_id, series.gear_id, part_id, measure from part join series on series.part_id = part.id
      where part.gear_id = any(${[...gearIds]}::int[]) and part.kind = 'sensor' and part.facts ->> 'context' = 'Intake'
        and series.measure = 'hw.temperature'
    order by id`.execute(db.withoutPlugins())
  return rows
}

/** How many gear there is of each kind. */
export async function countGearByKind(db: Db): Promise<{ kind: GearKind; count: number }[]> {
  const { rows } = await sql<{ kind: GearKind; count: number }>`
    select kind, count(*)::int as count from gear where merged_into is null group by kind`.execute(db)
  return rows
}

/** The days on which warranties end, with how many gear each is of. */
export async function countWarranties(db: Db): Promise<{ warrantyEnds: string | null; count: number }[]> {
  const { rows } = await sql<{ warrantyEnds: string | null; count: number }>`
    select warranty_ends::text as "warrantyEnds", count(*)::int as count
    from gear where merged_into is null group by warranty_ends`.execute(db)
  return rows
}

export async function countGear(db: Db): Promise<number> {
  const { count } = await db
    .selectFrom('gear')
    .select((eb) => eb.fn.countAll().as('count'))
    .where('mergedInto', 'is', null)
    .executeTakeFirstOrThrow()
  return Number(count)
}

/** Names and kinds of some gear, or of all that is not merged into another. */
export const listNamesOfGear = (db: Db, ids?: readonly number[]) =>
  db
    .selectFrom('gear')
    .select(['id', 'name', 'kind'])
    .$if(ids === undefined, (query) => query.where('mergedInto', 'is', null))
    .$if(ids !== undefined, (query) => query.where('id', 'in', [0, ...ids!]))
    .orderBy('name')
    .orderBy('id')
    .execute()

/** Which source sees which gear, by the names of the gear; each once. */
export const listSeen = (db: Db) =>
  db
    .selectFrom('sighting')
    .innerJoin('gear', 'gear.id', 'sighting.gearId')
    .select(['sighting.sourceId', 'gear.id', 'gear.name'])
    .distinct()
    .where('gear.mergedInto', 'is', null)
    .orderBy('gear.name')
    .orderBy('gear.id')
    .execute()

/** What none but some sources see. */
export async function gearSeenOnlyBy(db: Db, sourceIds: readonly number[]): Promise<ReadonlySet<number>> {
  if (sourceIds.length === 0) return new Set()
  const rows = await db
    .selectFrom('sighting')
    .select('gearId')
    .groupBy('gearId')
    .having(sql<boolean>`bool_and(source_id = any(${[...sourceIds]}::int[]))`)
    .execute()
  return new Set(rows.map(({ gearId }) => gearId))
}

/** What stands in no rack, on no floor and in nothing else, by name. */
export async function listUnplaced(db: Db): Promise<{ id: number; name: string; kind: GearKind }[]> {
  return db
    .selectFrom('gear')
    .leftJoin('floorPlace', 'floorPlace.gearId', 'gear.id')
    .leftJoin(hosts(db), (join) => join.onRef('host.gearId', '=', 'gear.id'))
    .select(['gear.id', 'gear.name', 'gear.kind'])
    .where('gear.mergedInto', 'is', null)
    .where('gear.rackId', 'is', null)
    .where('floorPlace.roomId', 'is', null)
    .where('host.onName', 'is', null)
    .orderBy('gear.name')
    .execute()
}

/** What any of some sources sees. */
export async function gearSeenBy(db: Db, sourceIds: readonly number[]): Promise<ReadonlySet<number>> {
  if (sourceIds.length === 0) return new Set()
  const rows = await db
    .selectFrom('sighting')
    .innerJoin('gear', 'gear.id', 'sighting.gearId')
    .select('sighting.gearId')
    .where('sighting.sourceId', 'in', [...sourceIds])
    .where('gear.mergedInto', 'is', null)
    .execute()
  return new Set(rows.map(({ gearId }) => gearId))
}

/** The gear as which the tool watches itself; `null` before it does. */
export async function findOwnGear(db: Db): Promise<number | null> {
  return (
    (await db.selectFrom('gear').select('id').where('kind', '=', 'selfMonitoring').executeTakeFirst())?.id ??
    null
  )
}
