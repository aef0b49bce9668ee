import { run } from 'graphile-worker'
import { parentPort, workerData } from 'node:worker_threads'
import { connect, openPool } from '#db/connect'
import type { HousekeeperOptions } from './housekeeper.ts'
import { HOUSEKEEPING_TIMES, housekeepingTasks } from './housekeeping.ts'
import { keepRunning } from './repeating.ts'

const { databaseUrl, dataFolder } = workerData as HousekeeperOptions
const pool = openPool(databaseUrl, 4)
const db = connect(pool)
const taskList = housekeepingTasks(db, dataFolder)
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
  void runner
    .stop()
    .then(() => db.destroy())
    .then(() => process.exit(0))
})
