import { sql } from 'kysely'
import type { GearKind } from '#core/catalogue'
import { type Face, type Mounted, type Placing, type Turn, placeLabel, tryPlace } from '#core/site'
import { recordGearChanges } from '../gear/changes.ts'
import type { Db } from '../platform/connect.ts'

export interface RackRow {
  readonly id: number
  readonly roomId: number
  readonly name: string
  readonly heightUnits: number
  /** Upper left corner on the plan of its room; `null` where it was not put yet. */
  readonly xMm: number | null
  readonly yMm: number | null
  readonly widthMm: number
  readonly depthMm: number
  readonly turn: Turn
}

export interface RoomRow {
  readonly id: number
  readonly name: string
  readonly building: string | null
  readonly widthMm: number
  readonly depthMm: number
  readonly tileMm: number
}

export const listRooms = (db: Db): Promise<RoomRow[]> =>
  db
    .selectFrom('room')
    .leftJoin('building', 'building.id', 'room.buildingId')
    .select(['room.id', 'room.name', 'building.name as building', 'widthMm', 'depthMm', 'tileMm'])
    .orderBy('position')
    .orderBy('room.id')
    .execute()

export const listRacks = (db: Db): Promise<RackRow[]> =>
  db
    .selectFrom('rack')
    .select(['id', 'roomId', 'name', 'heightUnits', 'xMm', 'yMm', 'widthMm', 'depthMm', 'turn'])
    .orderBy('position')
    .orderBy('name')
    .execute()

export interface StandingRow {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly roomId: number
  readonly rackId: number | null
  readonly unit: number | null
  readonly heightUnits: number | null
  readonly face: Face | null
}

/** What stands in racks and on floors, by name. @param ids only these, when given */
export const listStanding = (db: Db, ids?: readonly number[]): Promise<StandingRow[]> =>
  db
    .selectFrom('gear')
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('floorPlace', 'floorPlace.gearId', 'gear.id')
    .select([
      'gear.id',
      'gear.name',
      'gear.kind',
      'gear.rackId',
      'gear.unit',
      'gear.heightUnits',
      'gear.face',
      (eb) => eb.fn.coalesce('rack.roomId', 'floorPlace.roomId').as('roomId'),
    ])
    .where('gear.mergedInto', 'is', null)
    .where((eb) => eb(eb.fn.coalesce('rack.roomId', 'floorPlace.roomId'), 'is not', null))
    .where(sql<boolean>`${ids === undefined} or gear.id = any(${[...(ids ?? [])]}::int[])`)
    .orderBy('gear.name')
    .$narrowType<{ roomId: number }>()
    .execute()

/**
 * What takes units of each rack, but for some gear: of each its lowest unit and then its height, the highest first. What
 * hangs at a side takes none.
 * @returns by the id of the rack
 */
export async function listTakenUnits(
  db: Db,
  exceptIds: readonly number[],
): Promise<ReadonlyMap<number, readonly number[]>> {
  const { rows } = await sql<{ rackId: number; taken: number[] }>`
    select rack_id as "rackId", array_agg(each order by unit desc, id, place) as taken
    from gear cross join lateral unnest(array[unit, height_units]) with ordinality as part (each, place)
    where merged_into is null and rack_id is not null and unit is not null and height_units is not null
      and coalesce(face, 'both') not in ('left', 'right') and id <> all(${[...exceptIds]}::int[])
    group by rack_id`.execute(db.withoutPlugins())
  return new Map(rows.map(({ rackId, taken }) => [rackId, taken]))
}

export interface NewRoom {
  readonly name: string
  readonly building?: string | null
  readonly widthMm?: number
  readonly depthMm?: number
  readonly tileMm?: number
}

async function buildingId(db: Db, name: string | null | undefined): Promise<number | null> {
  if (name == null || name === '') return null
  const row = await db
    .insertInto('building')
    .values({ name })
    .onConflict((conflict) => conflict.column('name').doUpdateSet({ name }))
    .returning('id')
    .executeTakeFirstOrThrow()
  return row.id
}

export async function insertRoom(db: Db, { building, ...room }: NewRoom): Promise<number> {
  const values = { ...room, buildingId: await buildingId(db, building) }
  return (await db.insertInto('room').values(values).returning('id').executeTakeFirstOrThrow()).id
}

export async function updateRoom(db: Db, id: number, { building, ...room }: NewRoom): Promise<void> {
  const values = { ...room, buildingId: await buildingId(db, building) }
  await db.updateTable('room').set(values).where('id', '=', id).execute()
}

export interface NewRack {
  readonly roomId: number
  readonly name: string
  readonly heightUnits: number
  readonly xMm?: number | null
  readonly yMm?: number | null
  readonly widthMm?: number
  readonly depthMm?: number
  readonly turn?: Turn
}

export async function insertRack(db: Db, rack: NewRack): Promise<number> {
  return (await db.insertInto('rack').values(rack).returning('id').executeTakeFirstOrThrow()).id
}

export async function updateRack(db: Db, id: number, rack: Partial<NewRack>): Promise<void> {
  await db.updateTable('rack').set(rack).where('id', '=', id).execute()
}

export type PlaceOutcome = { kind: 'placed' } | { kind: 'unknown' } | Exclude<Placing, { kind: 'fits' }>

export interface RackPlace {
  readonly rackId: number
  readonly unit: number
  readonly heightUnits: number
  readonly face?: Face
}

/** What sits in a rack. */
export const listMounted = (db: Db, rackId: number): Promise<Mounted[]> =>
  db
    .selectFrom('gear')
    .select(['id', 'name', 'unit', 'heightUnits', 'face'])
    .where('rackId', '=', rackId)
    .orderBy('unit')
    .$narrowType<{ unit: number; heightUnits: number; face: Face }>()
    .execute()

/** Puts a gear into a rack, and writes down from where. The database itself keeps two gear from sharing a unit. */
export async function placeGearInRack(
  db: Db,
  gearId: number,
  { face = 'both', ...place }: RackPlace,
  who: string | null = null,
): Promise<PlaceOutcome> {
  const rack = await db
    .selectFrom('rack')
    .select('heightUnits')
    .where('id', '=', place.rackId)
    .executeTakeFirst()
  if (rack === undefined) return { kind: 'unknown' }
  const wanted = { id: gearId, unit: place.unit, heightUnits: place.heightUnits, face }
  const found = tryPlace(wanted, { ...rack, gear: await listMounted(db, place.rackId) })
  if (found.kind !== 'fits') return found
  const was = await labelOf(db, gearId)
  if (was === undefined) return { kind: 'unknown' }
  try {
    await db
      .updateTable('gear')
      .set({ ...place, face })
      .where('id', '=', gearId)
      .execute()
  } catch (error) {
    // Somebody was quicker.
    if (error instanceof Error && 'constraint' in error && error.constraint === 'gear_units_do_not_overlap')
      return { kind: 'occupied', by: [] }
    throw error
  }
  await db.deleteFrom('floorPlace').where('gearId', '=', gearId).execute()
  await recordMove(db, gearId, was, who)
  return { kind: 'placed' }
}

/** Takes a gear from where it stands, into the stock. */
export async function takeOutOfRack(db: Db, gearId: number, who: string | null = null): Promise<void> {
  const was = await labelOf(db, gearId)
  await clearPlace(db, gearId)
  if (was !== undefined) await recordMove(db, gearId, was, who)
}

async function clearPlace(db: Db, gearId: number): Promise<void> {
  await db
    .updateTable('gear')
    .set({ rackId: null, unit: null, heightUnits: null, face: null })
    .where('id', '=', gearId)
    .execute()
  await db.deleteFrom('floorPlace').where('gearId', '=', gearId).execute()
}

/** A gear that stands on the floor, hangs on a wall, or lies along a way. */
export interface FloorPlaceRow {
  readonly gearId: number
  readonly roomId: number
  readonly xMm: number
  readonly yMm: number
  readonly widthMm: number
  readonly depthMm: number
  readonly turn: Turn
  readonly way: number[]
}

export const listFloorPlaces = (db: Db): Promise<FloorPlaceRow[]> =>
  db.selectFrom('floorPlace').selectAll().orderBy('gearId').execute()

export async function placeOnFloor(
  db: Db,
  place: Omit<FloorPlaceRow, 'way'> & { readonly way?: readonly number[] },
  who: string | null = null,
): Promise<void> {
  const was = await labelOf(db, place.gearId)
  if (was === undefined) return
  await clearPlace(db, place.gearId)
  await db
    .insertInto('floorPlace')
    .values({ ...place, way: [...(place.way ?? [])] })
    .execute()
  await recordMove(db, place.gearId, was, who)
}

/** Where a gear stands in words; `undefined` when there is no such gear. */
async function labelOf(db: Db, gearId: number): Promise<string | null | undefined> {
  const row = await db
    .selectFrom('gear')
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('floorPlace', 'floorPlace.gearId', 'gear.id')
    .leftJoin('room', (join) =>
      join.on((eb) => eb('room.id', '=', eb.fn.coalesce('rack.roomId', 'floorPlace.roomId'))),
    )
    .select(['room.name as room', 'rack.name as rack', 'gear.unit', 'gear.heightUnits', 'gear.face'])
    .where('gear.id', '=', gearId)
    .executeTakeFirst()
  if (row === undefined) return undefined
  const { room, rack, unit, heightUnits, face } = row
  const position = unit === null || heightUnits === null ? null : { unit, heightUnits }
  return placeLabel({ room, rack, position, face })
}

async function recordMove(db: Db, gearId: number, was: string | null, who: string | null): Promise<void> {
  const became = (await labelOf(db, gearId)) ?? null
  if (was !== became)
    await recordGearChanges(db, gearId, [{ what: 'moved', subject: 'place', was, became }], who)
}

/** Takes a rack away with nothing in it. @returns whether it was empty, and is gone */
export async function deleteRack(db: Db, id: number): Promise<boolean> {
  const gone = await sql`
    delete from rack where id = ${id} and not exists (select 1 from gear where rack_id = ${id})`.execute(db)
  return gone.numAffectedRows === 1n
}
