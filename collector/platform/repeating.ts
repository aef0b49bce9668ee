import type { Runner, WorkerEvents } from 'graphile-worker'
import { EventEmitter } from 'node:events'
import { isServerAway } from '#db/platform'
import { log } from './log.ts'

export interface Repeating {
  stop(): void
}

/** Repeats `work` with a pause in between, never twice at once; a database that is away is waited for in silence. */
export function every(pauseMs: number, work: () => Promise<void>): Repeating {
  let timer: NodeJS.Timeout
  let stopped = false
  const again = async (): Promise<void> => {
    await work().catch((error: unknown) => {
      if (!isServerAway(error) && !stopped) log.error({ reason: String(error) }, 'a repeated task failed')
    })
    if (!stopped) timer = setTimeout(() => void again(), pauseMs)
  }
  timer = setTimeout(() => void again(), pauseMs)
  return {
    stop() {
      stopped = true
      clearTimeout(timer)
    },
  }
}

const PAUSE_MS = 2000
/** The same failure, and not another like it, of two looks for jobs so long apart. */
const SAME_AFTER_MS = 500

/**
 * Runs the job queue, and starts it again should it end because the database went away. When the first question of its
 * workers fails, which numbers their tasks have, they keep that failure and never ask again: the queue is deaf for good
 * and says nothing. It is begun anew then.
 */
export function keepRunning(start: (events: WorkerEvents) => Promise<Runner>): {
  again(): Promise<void>
  stop(): Promise<void>
} {
  let runner: Runner | null = null
  let stopped = false
  const end = async (): Promise<void> => {
    await runner?.stop().catch(() => undefined)
  }
  const loop = async (): Promise<void> => {
    while (!stopped) {
      try {
        const events: WorkerEvents = new EventEmitter()
        onDeaf(events, (error) => {
          log.warn({ reason: String(error) }, 'the job queue could not learn its tasks, and begins anew')
          void end()
        })
        runner = await start(events)
        await runner.promise
      } catch (error) {
        if (!stopped) log.warn({ reason: String(error) }, 'the job queue waits for the database')
      }
      if (!stopped) await new Promise((resolve) => setTimeout(resolve, PAUSE_MS))
    }
  }
  void loop()
  return {
    /** Begins anew once what is under way is done. */
    again: end,
    async stop() {
      stopped = true
      await end()
    },
  }
}

/** Calls once, when looking for jobs has failed by a failure that is kept. */
function onDeaf(events: WorkerEvents, then: (error: unknown) => void): void {
  let kept = { error: null as unknown, sinceMs: 0 }
  let isSaid = false
  events.on('worker:getJob:error', ({ error }) => {
    if (kept.error !== error) kept = { error, sinceMs: performance.now() }
    if (isSaid || performance.now() - kept.sinceMs < SAME_AFTER_MS) return
    isSaid = true
    then(error)
  })
}
