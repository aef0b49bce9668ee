import { randomBytes } from 'node:crypto'
import { inject } from 'vitest'
import { connect, type Db, openPool } from '../platform/connect.ts'
import { query, TEMPLATE, urlOf } from './template.ts'

export interface TestDatabase {
  readonly db: Db
  readonly url: string
  drop(): Promise<void>
}

/** A database of its own, migrated. */
export const freshDatabase = (): Promise<TestDatabase> => createDatabase(`template ${TEMPLATE}`)

/** A database of its own without a table. */
export const emptyDatabase = (): Promise<TestDatabase> => createDatabase('')

async function createDatabase(words: string): Promise<TestDatabase> {
  const name = `test_${randomBytes(6).toString('hex')}`
  const root = inject('databaseUrl')
  await query(root, `create database ${name} ${words}`)
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
