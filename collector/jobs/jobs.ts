import { setTimeout as pause } from 'node:timers/promises'
import { Worker } from 'node:worker_threads'
import { log } from '../platform/log.ts'
import type { JobThread } from './job.ts'
import { THREADS } from './threads.ts'

export interface JobOptions {
  readonly databaseUrl: string
  readonly dataFolder: string
}

/** What a thread is given to begin with. */
export interface JobThreadData extends JobOptions {
  readonly thread: string
}

const LONGEST_STOP_MS = 8000
const AGAIN_MS = 5000

export const limitsOf = ({ memoryMiB }: Pick<JobThread, 'memoryMiB'>) => ({
  maxOldGenerationSizeMb: memoryMiB.old,
  maxYoungGenerationSizeMb: memoryMiB.young,
})

/**
 * Does regular work in threads of their own: encoding a day of readings would otherwise hold up everything that waits for
 * the event loop. A thread that dies is started again; what it was at is as it was before (see `sealDay`).
 */
export function startJobs(options: JobOptions): { close(): Promise<void> } {
  const threads = THREADS.map((thread) => keepThread(thread, options))
  return {
    async close() {
      await Promise.all(threads.map((thread) => thread.close()))
    },
  }
}

const sayFailed = ({ name }: JobThread, error: unknown): void =>
  log.error({ thread: name, reason: String(error) }, 'a thread of jobs failed')

function keepThread(thread: JobThread, options: JobOptions): { close(): Promise<void> } {
  let isClosed = false
  let worker: Worker
  const start = (): void => {
    worker = new Worker(new URL('./jobThread.mjs', import.meta.url), {
      workerData: { ...options, thread: thread.name } satisfies JobThreadData,
      resourceLimits: limitsOf(thread),
    })
    worker.on('error', (error) => sayFailed(thread, error))
    worker.once('exit', () => {
      if (!isClosed) setTimeout(start, AGAIN_MS).unref()
    })
  }
  start()
  return {
    async close() {
      isClosed = true
      const ended = new Promise((resolve) => worker.once('exit', resolve))
      worker.postMessage('stop')
      await Promise.race([ended, pause(LONGEST_STOP_MS, undefined, { ref: false })])
      await worker.terminate()
    },
  }
}
