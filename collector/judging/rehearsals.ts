import { Worker } from 'node:worker_threads'
import type { Db } from '#db/platform'
import { isRehearsalWaiting } from '#db/rules'
import { log } from '../platform/log.ts'

const IDLE_MS = 300

/** Does the rehearsals that people ask for, in a thread that ends when none is left. */
export class Rehearsals {
  #worker: Worker | null = null
  #isAsked = false
  #closed = false

  constructor(
    private readonly db: Db,
    private readonly databaseUrl: string,
  ) {}

  /** Takes up what waits. Safe to call at any time. */
  async look(): Promise<void> {
    this.#isAsked = true
    if (this.#worker !== null || this.#closed) return
    if (!(await isRehearsalWaiting(this.db)) || this.#worker !== null || this.#closed) return
    this.#isAsked = false
    const worker = new Worker(new URL('./rehearsalThread.mjs', import.meta.url), {
      workerData: { databaseUrl: this.databaseUrl },
    })
    this.#worker = worker
    worker.on('message', (reason: string) => log.error({ reason }, 'a rehearsal could not be done'))
    worker.on('error', (error) => log.error({ reason: String(error) }, 'the thread of rehearsals failed'))
    worker.once('exit', () => {
      this.#worker = null
      if (this.#isAsked && !this.#closed)
        setTimeout(() => void this.look().catch(() => undefined), IDLE_MS).unref()
    })
  }

  async close(): Promise<void> {
    this.#closed = true
    await this.#worker?.terminate()
  }
}
