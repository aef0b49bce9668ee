import type { Db } from '../platform/connect.ts'

/** A view that somebody has kept; `query` is what stands behind the address. */
export interface PastViewRow {
  readonly id: number
  readonly name: string
  readonly query: string
  readonly madeBy: string
}

export const listViews = (db: Db): Promise<PastViewRow[]> =>
  db.selectFrom('pastView').select(['id', 'name', 'query', 'madeBy']).orderBy('name').execute()

/** Keeps a view; one of the same name is replaced. */
export async function writeView(
  trx: Db,
  { name, query }: Pick<PastViewRow, 'name' | 'query'>,
  who: string,
): Promise<void> {
  await trx
    .insertInto('pastView')
    .values({ name, query, madeBy: who })
    .onConflict((conflict) => conflict.column('name').doUpdateSet({ query, madeBy: who, madeAt: new Date() }))
    .execute()
}

/** @returns its name; `undefined` when it was not there */
export async function deleteView(trx: Db, id: number): Promise<string | undefined> {
  const gone = await trx.deleteFrom('pastView').where('id', '=', id).returning('name').executeTakeFirst()
  return gone?.name
}
