import { run } from 'graphile-worker'
import { setPriority } from 'node:os'
import { join } from 'node:path'
import { parentPort, workerData } from 'node:worker_threads'
import { connect, openPool } from '#db/platform'
import { openKeyFile } from '#db/sources'
import type { HousekeeperOptions } from './housekeeper.ts'
import { HOUSEKEEPING_TIMES, housekeepingTasks } from './housekeeping.ts'
import { keepRunning } from '../platform/repeating.ts'
import { AlertWriter } from '../judging/alertWriter.ts'
import { Notifier } from '../notify/notifier.ts'

// On Linux this is the thread's own priority: storing and judging go first.
setPriority(0, 10)
const { databaseUrl, dataFolder } = workerData as HousekeeperOptions
const pool = openPool(databaseUrl, 4)
const db = connect(pool)
const notifier = new Notifier(openKeyFile(join(dataFolder, 'secret.key')))
const stopping = new AbortController()
const taskList = housekeepingTasks(db, dataFolder, new AlertWriter(db, notifier), stopping.signal)
const runner = keepRunning(async () => {
  const started = await run({
    pgPool: pool,
    concurrency: 1,
    noHandleSignals: true,
    pollInterval: 5000,
    taskList,
    crontab: HOUSEKEEPING_TIMES,
  })
  // Whatever was left undone while nobody ran is taken up at once.
  for (const task of Object.keys(taskList)) await started.addJob(task, {}, { jobKey: `${task} at start` })
  return started
})

parentPort?.once('message', () => {
  stopping.abort()
  void runner
    .stop()
    .then(() => db.destroy())
    .then(() => process.exit(0))
})
