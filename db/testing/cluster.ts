import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { connect, migrate, openPool } from '#db/platform'
import { SEEDS } from '#protocols/seeds'
import { query, TEMPLATE, urlOf } from './template.ts'
import { installPostgres, freePort, openCluster } from '../../bin/setup/postgres.mjs'

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string
  }
}

/** One private cluster for the whole run, on a free port; every test file makes databases of its own in it. */
export default async function setup(project: TestProject): Promise<() => void> {
  installPostgres()
  const folder = mkdtempSync(join(tmpdir(), 'rack-test-'))
  chmodSync(folder, 0o755)
  const cluster = await openCluster({ folder, port: await freePort(), extra: '-c fsync=off' })
  await makeTemplate(cluster.url)
  project.provide('databaseUrl', cluster.url)
  return () => {
    cluster.kill()
    rmSync(folder, { recursive: true, force: true })
  }
}

/** The tables are made once; a fresh database is a copy. */
async function makeTemplate(url: string): Promise<void> {
  await query(url, `create database ${TEMPLATE}`)
  const db = connect(openPool(urlOf(url, TEMPLATE)))
  await migrate(db, SEEDS)
  await db.destroy()
}
