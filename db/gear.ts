import { sql } from 'kysely'
import type { GearKind, LinkKind, MeasureKey, PartKind } from '#core/measures'
import type { Severity } from '#core/rules'
import type { Db } from './connect.ts'

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
  readonly tags: string[]
  /** What a machine runs on, or what a store belongs to. */
  readonly onName: string | null
  readonly sourceIds: number[]
  readonly openSeverities: Severity[]
}

const rows = (db: Db) =>
  db
    .selectFrom('gear')
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('room', 'room.id', 'rack.roomId')
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
      'gear.tags',
      sql<string | null>`(
        select other.name from link join gear other on other.id = link.from_gear_id
        where link.to_gear_id = gear.id and link.kind in ('hosts', 'stores-on') and other.kind = 'server'
        order by other.name limit 1)`.as('onName'),
      sql<number[]>`array(select distinct source_id from sighting where gear_id = gear.id order by 1)`.as(
        'sourceIds',
      ),
      sql<Severity[]>`array(select severity from alert where gear_id = gear.id and cleared_at is null)`.as(
        'openSeverities',
      ),
    ])

/** All gear, without what was merged into another. */
export const listGear = (db: Db): Promise<GearRow[]> =>
  rows(db).where('gear.mergedInto', 'is', null).orderBy('gear.name').execute()

export const findGear = (db: Db, id: number): Promise<GearRow | undefined> =>
  rows(db).where('gear.id', '=', id).executeTakeFirst()

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

/** What rules need to know of the series of one source. */
export async function listSubjects(db: Db, sourceId: number) {
  return db
    .selectFrom('series')
    .innerJoin('gear', 'gear.id', 'series.gearId')
    .leftJoin('part', 'part.id', 'series.partId')
    .select([
      'series.id',
      'series.measure',
      'series.gearId',
      'series.partId',
      'gear.name as gearName',
      'gear.kind as gearKind',
      'part.name as partName',
      'part.kind as partKind',
    ])
    .where('series.sourceId', '=', sourceId)
    .execute()
}
export type SubjectRow = Awaited<ReturnType<typeof listSubjects>>[number]

export interface LinkRow {
  readonly kind: LinkKind
  readonly otherId: number
  readonly otherName: string
  readonly otherKind: GearKind
  /** Whether the other gear stands at the far end: «petrel-07 hosts tide-model-03» seen from petrel-07. */
  readonly isOutgoing: boolean
}

export async function listLinks(db: Db, gearId: number): Promise<LinkRow[]> {
  const found = await db
    .selectFrom('link')
    .innerJoin('gear', (join) =>
      join.on((eb) =>
        eb.or([
          eb.and([eb('link.fromGearId', '=', gearId), eb('gear.id', '=', eb.ref('link.toGearId'))]),
          eb.and([eb('link.toGearId', '=', gearId), eb('gear.id', '=', eb.ref('link.fromGearId'))]),
        ]),
      ),
    )
    .select([
      'link.kind',
      'link.fromGearId',
      'gear.id as otherId',
      'gear.name as otherName',
      'gear.kind as otherKind',
    ])
    .orderBy('gear.name')
    .execute()
  return found.map(({ fromGearId, ...link }) => ({ ...link, isOutgoing: fromGearId === gearId }))
}

export async function insertLink(
  db: Db,
  kind: LinkKind,
  fromGearId: number,
  toGearId: number,
): Promise<void> {
  await db
    .insertInto('link')
    .values({ kind, fromGearId, toGearId })
    .onConflict((conflict) => conflict.doNothing())
    .execute()
}

/** Changes what people say of a gear. */
export async function updateGear(
  db: Db,
  id: number,
  change: { readonly name: string; readonly tags: readonly string[] },
): Promise<void> {
  await db
    .updateTable('gear')
    .set({ name: change.name, tags: [...change.tags] })
    .where('id', '=', id)
    .execute()
}

/** Adds tags to all gear that a source sees. */
export async function tagGearOfSource(db: Db, sourceId: number, tags: readonly string[]): Promise<void> {
  if (tags.length === 0) return
  await sql`
    update gear set tags = (select array_agg(distinct tag order by tag) from unnest(tags || ${[...tags]}::text[]) as tag)
    where id in (select gear_id from sighting where source_id = ${sourceId})`.execute(db)
}
