import { randomBytes } from 'node:crypto'
import pg from 'pg'
import { inject } from 'vitest'
import { connect, type Db, openPool } from '../platform/connect.ts'
import { migrate } from '../platform/migrate.ts'
import { SEEDS } from '#protocols/seeds'

/** A database of its own, migrated. */
export async function freshDatabase(): Promise<{ db: Db; url: string; drop(): Promise<void> }> {
  const name = `test_${randomBytes(6).toString('hex')}`
  const root = inject('databaseUrl')
  await query(root, `create database ${name}`)
  const url = root.replace(/\/rack$/, `/${name}`)
  const db = connect(openPool(url))
  await migrate(db, SEEDS)
  return {
    db,
    url,
    async drop() {
      await db.destroy()
      await query(root, `drop database if exists ${name} with (force)`)
    },
  }
}

async function query(url: string, text: string): Promise<void> {
  const client = new pg.Client({ connectionString: url })
  await client.connect()
  await client.query(text)
  await client.end()
}
