import { makeWorkerUtils } from 'graphile-worker'
import type { Db } from '../platform/connect.ts'
import { freshDatabase } from './database.ts'

/** A database of its own in which jobs can be queued. */
export async function freshDatabaseWithJobs(): Promise<{ db: Db; url: string; drop(): Promise<void> }> {
  const fresh = await freshDatabase()
  const utils = await makeWorkerUtils({ connectionString: fresh.url })
  await utils.migrate()
  await utils.release()
  return fresh
}
