import { makeWorkerUtils, run } from 'graphile-worker'
import type { PoolClient } from 'pg'
import { expect, test } from 'vitest'
import { openPool } from '#db/platform'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { keepRunning } from './repeating.ts'

/** All connections are taken just when the workers ask for the first time, as when a busy machine starts. */
test('a queue that got no connection at its start does its jobs once there is one', async () => {
  const { url, drop } = await freshDatabaseWithJobs()
  const most = 3
  const pool = openPool(url, most)
  pool.options.connectionTimeoutMillis = 200
  let starts = 0
  const done: unknown[] = []
  const taken: Promise<PoolClient>[] = []
  const queue = keepRunning((events) => {
    starts += 1
    if (starts === 1)
      events.once('pool:create', () => {
        for (let i = 0; i < most; i += 1) taken.push(pool.connect())
      })
    return run({
      pgPool: pool,
      events,
      concurrency: 2,
      noHandleSignals: true,
      pollInterval: 300,
      parsedCronItems: [],
      taskList: { notify: (payload) => void done.push(payload) },
    })
  })
  await expect.poll(() => taken.length).toBe(most)
  await new Promise((resolve) => setTimeout(resolve, 600))
  for (const client of taken) (await client).release()

  const utils = await makeWorkerUtils({ connectionString: url })
  await utils.addJob('notify', { id: 'x' })
  await utils.release()
  await expect.poll(() => done, { timeout: 20_000 }).toEqual([{ id: 'x' }])
  expect(starts).toBe(2)

  await queue.stop()
  await pool.end()
  await drop()
})
