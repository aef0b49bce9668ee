import { setTimeout as pause } from 'node:timers/promises'
import { Worker } from 'node:worker_threads'
import { log } from '../platform/log.ts'

export interface HousekeeperOptions {
  readonly databaseUrl: string
  readonly dataFolder: string
}

const LONGEST_STOP_MS = 8000
/** A day is sealed in parts that fit into it (`sealDay`); without a limit the thread's garbage grows before it is collected. */
export const SMALL = { maxOldGenerationSizeMb: 56, maxYoungGenerationSizeMb: 8 } as const

/**
 * Keeps the store small in a thread of its own: encoding a day of readings would otherwise hold up everything that
 * waits for the event loop. A thread that dies is started again; what it was at is as it was before (see `sealDay`).
 */
export function startHousekeeper(options: HousekeeperOptions): { close(): Promise<void> } {
  let isClosed = false
  let worker: Worker
  const start = (): void => {
    worker = new Worker(new URL('./housekeeperThread.mjs', import.meta.url), {
      workerData: options,
      resourceLimits: SMALL,
    })
    worker.on('error', (error) => log.error({ reason: String(error) }, 'the housekeeping thread failed'))
    worker.once('exit', () => {
      if (!isClosed) setTimeout(start, 5000).unref()
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
