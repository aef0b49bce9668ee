import type { Db } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import type { MappedProtocol, MappingBody } from './tables.ts'

export interface MappingRow {
  readonly id: number
  readonly name: string
  readonly protocol: MappedProtocol
  readonly body: MappingBody
  readonly isShipped: boolean
}

/** Mappings with how many sources go by each. */
export const listMappings = (db: Db): Promise<(MappingRow & { sources: number })[]> =>
  db
    .selectFrom('mapping')
    .selectAll()
    .select((eb) =>
      eb
        .selectFrom('source')
        .whereRef('source.mappingId', '=', 'mapping.id')
        .select((count) => count.fn.countAll<string>().as('sources'))
        .as('sources'),
    )
    .orderBy('name')
    .execute()
    .then((rows) => rows.map((row) => ({ ...row, sources: Number(row.sources) })))

export const findMapping = (db: Db, id: number): Promise<MappingRow | undefined> =>
  db.selectFrom('mapping').selectAll().where('id', '=', id).executeTakeFirst()

export async function insertMapping(
  db: Db,
  mapping: { name: string; protocol: MappedProtocol; body: MappingBody },
): Promise<number> {
  const { id } = await db
    .insertInto('mapping')
    .values({ ...mapping, body: JSON.stringify(mapping.body) })
    .returning('id')
    .executeTakeFirstOrThrow()
  return id
}

/** Changes a mapping for all sources that go by it; they take it up at their next reading. */
export async function updateMapping(db: Db, id: number, body: MappingBody): Promise<void> {
  await db
    .updateTable('mapping')
    .set({ body: JSON.stringify(body) })
    .where('id', '=', id)
    .execute()
  // Any source will do: the collector reads all of them again.
  await announce(db, { topic: 'sources', sourceId: 0 })
}
