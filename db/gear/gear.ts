import { sql } from 'kysely'
import type { GearKind, MeasureKey, PartKind } from '#core/catalogue'
import type { Severity } from '#core/rules'
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
  /** Of its open alerts; those that are quiet as such. */
  readonly openSeverities: (Severity | 'quiet')[]
}

const rows = (db: Db) =>
  db
    .selectFrom('gear')
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('floorPlace', 'floorPlace.gearId', 'gear.id')
    .leftJoin('room', (join) =>
      join.on((eb) => eb('room.id', '=', eb.fn.coalesce('rack.roomId', 'floorPlace.roomId'))),
    )
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
      sql<string | null>`(
        select other.name from link join gear other on other.id = link.from_gear_id
        where link.to_gear_id = gear.id and link.kind in ('hosts', 'stores-on', 'contains')
          and other.kind in ('server', 'chassis')
        order by other.name limit 1)`.as('onName'),
      sql<number[]>`array(select distinct source_id from sighting where gear_id = gear.id order by 1)`.as(
        'sourceIds',
      ),
      sql<
        (Severity | 'quiet')[]
      >`array(select case when quiet_id is null then severity else 'quiet' end from alert where gear_id = gear.id and cleared_at is null)`.as(
        'openSeverities',
      ),
    ])

/** All gear, without what was merged into another. */
export const listGear = (db: Db): Promise<GearRow[]> =>
  rows(db).where('gear.mergedInto', 'is', null).orderBy('gear.name').execute()

export const findGear = (db: Db, id: number): Promise<GearRow | undefined> =>
  rows(db).where('gear.id', '=', id).executeTakeFirst()

/** What has to be known of a gear before it is asked to stop. */
export async function findStoppable(db: Db, id: number) {
  const [gear, seen, identities] = await Promise.all([
    nameOfGear(db, id),
    db.selectFrom('sighting').select('sourceId').where('gearId', '=', id).execute(),
    db.selectFrom('gearIdentity').select('value').where('gearId', '=', id).execute(),
  ])
  if (gear === undefined) return undefined
  return {
    name: gear,
    sourceIds: seen.map(({ sourceId }) => sourceId),
    identities: identities.map(({ value }) => value),
  }
}

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

/** Sensors that are at the inlet of something. */
export async function listIntakes(db: Db, gearIds: readonly number[]): Promise<ReadonlySet<number>> {
  if (gearIds.length === 0) return new Set()
  const rows = await db
    .selectFrom('part')
    .select('id')
    .where('gearId', 'in', [...gearIds])
    .where('kind', '=', 'sensor')
    .where((eb) => eb(eb.ref('facts', '->>').key('context'), '=', 'Intake'))
    .execute()
  return new Set(rows.map(({ id }) => id))
}

/** Names and kinds of some gear, or of all. */
export const listNamesOfGear = (db: Db, ids?: readonly number[]) =>
  db
    .selectFrom('gear')
    .select(['id', 'name', 'kind'])
    .$if(ids !== undefined, (query) => query.where('id', 'in', [0, ...ids!]))
    .orderBy('name')
    .orderBy('id')
    .execute()

/** The gear as which the tool watches itself; `null` before it does. */
export async function findOwnGear(db: Db): Promise<number | null> {
  return (
    (await db.selectFrom('gear').select('id').where('kind', '=', 'selfMonitoring').executeTakeFirst())?.id ??
    null
  )
}
