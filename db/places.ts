import type { Db } from './connect.ts'

export interface RackRow {
  readonly id: number
  readonly roomId: number
  readonly name: string
  readonly heightUnits: number
}

export interface RoomRow {
  readonly id: number
  readonly name: string
}

export const listRooms = (db: Db): Promise<RoomRow[]> =>
  db.selectFrom('room').select(['id', 'name']).orderBy('position').orderBy('id').execute()

export const listRacks = (db: Db): Promise<RackRow[]> =>
  db
    .selectFrom('rack')
    .select(['id', 'roomId', 'name', 'heightUnits'])
    .orderBy('position')
    .orderBy('name')
    .execute()

export async function insertRoom(db: Db, name: string): Promise<number> {
  return (await db.insertInto('room').values({ name }).returning('id').executeTakeFirstOrThrow()).id
}

export async function insertRack(
  db: Db,
  rack: { roomId: number; name: string; heightUnits: number },
): Promise<number> {
  return (await db.insertInto('rack').values(rack).returning('id').executeTakeFirstOrThrow()).id
}

export type PlaceOutcome =
  { kind: 'placed' } | { kind: 'occupied' } | { kind: 'outside'; heightUnits: number } | { kind: 'unknown' }

/** Puts a gear into a rack. The database itself keeps two gear from sharing a unit. */
export async function placeGearInRack(
  db: Db,
  gearId: number,
  place: { rackId: number; unit: number; heightUnits: number },
): Promise<PlaceOutcome> {
  const rack = await db
    .selectFrom('rack')
    .select('heightUnits')
    .where('id', '=', place.rackId)
    .executeTakeFirst()
  if (rack === undefined) return { kind: 'unknown' }
  if (place.unit < 1 || place.unit + place.heightUnits - 1 > rack.heightUnits) {
    return { kind: 'outside', heightUnits: rack.heightUnits }
  }
  try {
    const row = await db
      .updateTable('gear')
      .set(place)
      .where('id', '=', gearId)
      .returning('id')
      .executeTakeFirst()
    return row === undefined ? { kind: 'unknown' } : { kind: 'placed' }
  } catch (error) {
    if (error instanceof Error && 'constraint' in error && error.constraint === 'gear_units_do_not_overlap') {
      return { kind: 'occupied' }
    }
    throw error
  }
}

/** Takes a gear out of its rack, into the stock. */
export async function takeOutOfRack(db: Db, gearId: number): Promise<void> {
  await db
    .updateTable('gear')
    .set({ rackId: null, unit: null, heightUnits: null })
    .where('id', '=', gearId)
    .execute()
}
