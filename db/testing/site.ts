import type { Db } from '../platform/connect.ts'

/** Rooms of 40 by 10 metres. @returns their ids, in this order */
export async function madeRooms(db: Db, names: readonly string[]): Promise<number[]> {
  const rooms = await db
    .insertInto('room')
    .values(names.map((name) => ({ name, widthMm: 40_000, depthMm: 10_000 })))
    .returning('id')
    .execute()
  return rooms.map(({ id }) => id)
}

/** A rack of 42 units, so far from the west wall of its room. @returns its id */
export async function madeRack(
  db: Db,
  { name, roomId, xMm }: { readonly name: string; readonly roomId: number; readonly xMm: number },
): Promise<number> {
  const at = { xMm, yMm: 4000, widthMm: 600, depthMm: 1000, turn: 0 as const }
  const { id } = await db
    .insertInto('rack')
    .values({ name, roomId, heightUnits: 42, ...at })
    .returning('id')
    .executeTakeFirstOrThrow()
  return id
}
