import pg from 'pg'

/** The name of the migrated database of which tests copy theirs. */
export const TEMPLATE = 'migrated'

/** The same server, another database. */
export const urlOf = (url: string, name: string): string => url.replace(/\/rack$/, `/${name}`)

export async function query(url: string, text: string): Promise<void> {
  const client = new pg.Client({ connectionString: url })
  await client.connect()
  await client.query(text)
  await client.end()
}
