import { type Db, within } from '../platform/connect.ts'

/** A collector says which commands its machine allows. */
export async function reportCommands(
  db: Db,
  collector: string,
  commands: readonly { readonly name: string; readonly words: string }[],
): Promise<void> {
  await within(db, async (trx) => {
    await trx.deleteFrom('allowedCommand').where('collector', '=', collector).execute()
    if (commands.length > 0)
      await trx
        .insertInto('allowedCommand')
        .values(commands.map((command) => ({ collector, ...command })))
        .execute()
  })
}

export const listCommands = (db: Db) =>
  db.selectFrom('allowedCommand').select(['collector', 'name', 'words']).orderBy('name').execute()
