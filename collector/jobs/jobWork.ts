import { run, type TaskList } from 'graphile-worker'
import { setPriority } from 'node:os'
import { join } from 'node:path'
import { parentPort, workerData } from 'node:worker_threads'
import { connect, openPool } from '#db/platform'
import { openKeyFile } from '#db/sources'
import { AlertWriter } from '../judging/alertWriter.ts'
import { Notifier } from '../notify/notifier.ts'
import { log } from '../platform/log.ts'
import { keepRunning } from '../platform/repeating.ts'
import { crontabOf, type Job, type JobContext } from './job.ts'
import type { JobThreadData } from './jobs.ts'
import { THREADS } from './threads.ts'

// On Linux this is the thread's own priority: storing and judging go first.
setPriority(0, 10)

/** A tenth of the time is enough to seal a day of 100,000 series in a night. */
const UNHURRIED = 9

const { databaseUrl, dataFolder, thread } = workerData as JobThreadData
const { jobs } = THREADS.find(({ name }) => name === thread)!
const pool = openPool(databaseUrl, 4)
const db = connect(pool)
const alerts = new AlertWriter(db, new Notifier(openKeyFile(join(dataFolder, 'secret.key'))))
const stopping = new AbortController()

const taskOf =
  ({ words, run: work }: Job): TaskList[string] =>
  async (_payload, { abortSignal }) => {
    const startedMs = Date.now()
    const over = AbortSignal.any([stopping.signal, ...(abortSignal === undefined ? [] : [abortSignal])])
    const context: JobContext = { db, dataFolder, alerts, now: Date.now, rest: UNHURRIED, over }
    const result = await work(context)
    log.info({ result, tookMs: Date.now() - startedMs }, words)
  }

const runner = keepRunning(async (events) => {
  const started = await run({
    pgPool: pool,
    events,
    concurrency: 1,
    noHandleSignals: true,
    pollInterval: 5000,
    taskList: Object.fromEntries(jobs.map((job) => [job.name, taskOf(job)])),
    crontab: crontabOf(jobs),
  })
  // Whatever was left undone while nobody ran is taken up at once.
  for (const { name } of jobs) await started.addJob(name, {}, { jobKey: `${name} at start` })
  return started
})

parentPort?.once('message', () => {
  stopping.abort()
  void runner
    .stop()
    .then(() => db.destroy())
    .then(() => process.exit(0))
})
