import { randomBytes } from 'node:crypto'
import { inject } from 'vitest'
import { connect, type Db, openPool } from '../platform/connect.ts'
import { query, TEMPLATE, urlOf } from './template.ts'

/** A database of its own, migrated. */
export async function freshDatabase(): Promise<{ db: Db; url: string; drop(): Promise<void> }> {
  const name = `test_${randomBytes(6).toString('hex')}`
  const root = inject('databaseUrl')
  await query(root, `create database ${name} template ${TEMPLATE}`)
  const url = urlOf(root, name)
  const db = connect(openPool(url))
  return {
    db,
    url,
    async drop() {
      await db.destroy()
      await query(root, `drop database if exists ${name} with (force)`)
    },
  }
}
