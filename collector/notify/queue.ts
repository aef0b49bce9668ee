import { run, type Runner, type TaskList, type WorkerEvents } from 'graphile-worker'
import type { Pool } from 'pg'
import { z } from 'zod'
import { commandTask } from '#db/callouts'
import type { Db } from '#db/platform'
import { ownWorker, releaseJobs } from '#db/sources'
import { log } from '../platform/log.ts'
import { every, keepRunning } from '../platform/repeating.ts'
import { waitForDatabase } from '../platform/waiting.ts'
import type { Allowance } from './allowance.ts'
import type { Notifier } from './notifier.ts'

const messageJob = z.object({ id: z.string() })
/** A collector that was not seen for so long is dead; its jobs are given to others. */
const DEAD_MS = 8000
/** Three channels that do not answer leave nobody else waiting. */
const MESSAGES_AT_ONCE = 12
const COMMANDS_AT_ONCE = 4

export interface QueueOptions {
  readonly db: Db
  readonly pool: Pool
  readonly collector: string
  readonly notifier: Notifier
  readonly allowance: Allowance
  readonly isFirst: () => Promise<boolean>
}

/** Sends the messages that are due, and runs the commands that this machine allows. */
export async function startQueue(options: QueueOptions): Promise<{ close(): Promise<void> }> {
  const { db, pool, collector, notifier, allowance, isFirst } = options
  await waitForDatabase(() => releaseJobs(db, DEAD_MS, collector).then(() => undefined))
  const send: TaskList[string] = (payload, helpers) =>
    notifier.send(db, messageJob.parse(payload).id, helpers)
  const work = (events: WorkerEvents, taskList: TaskList, concurrency: number): Promise<Runner> => {
    events.on('pool:create', ({ workerPool }) => {
      void ownWorker(db, collector, workerPool.id).catch((error: unknown) => {
        log.error({ reason: String(error) }, 'a worker of the job queue could not say whose it is')
      })
    })
    return run({
      pgPool: pool,
      concurrency,
      noHandleSignals: true,
      pollInterval: 1000,
      parsedCronItems: [],
      events,
      taskList,
    })
  }
  // `tell` and `mail` are what earlier versions wrote.
  const sender = keepRunning((events) =>
    work(events, { notify: send, tell: send, mail: send }, MESSAGES_AT_ONCE),
  )
  // A queue wants one task at least; no command is without a name.
  const names = (): string[] => ['', ...allowance.list.map(({ name }) => name)]
  const doer = keepRunning((events) =>
    work(events, Object.fromEntries(names().map((name) => [commandTask(name), send])), COMMANDS_AT_ONCE),
  )
  const ticks = [
    every(5000, async () => {
      if (await allowance.look()) await doer.again()
    }),
    every(2000, async () => {
      if (await isFirst()) await releaseJobs(db, DEAD_MS, null)
    }),
  ]
  return {
    async close() {
      for (const tick of ticks) tick.stop()
      await Promise.all([sender.stop(), doer.stop()])
    },
  }
}
