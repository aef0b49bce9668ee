import type { Runner } from 'graphile-worker'
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

/** Runs the job queue, and starts it again should it end because the database went away. */
export function keepRunning(start: () => Promise<Runner>): { again(): Promise<void>; stop(): Promise<void> } {
  let runner: Runner | null = null
  let stopped = false
  const loop = async (): Promise<void> => {
    while (!stopped) {
      try {
        runner = await start()
        await runner.promise
      } catch (error) {
        if (!stopped) log.warn({ reason: String(error) }, 'the job queue waits for the database')
      }
      if (!stopped) await new Promise((resolve) => setTimeout(resolve, 2000))
    }
  }
  void loop()
  const end = async (): Promise<void> => {
    await runner?.stop().catch(() => undefined)
  }
  return {
    /** Begins anew once what is under way is done. */
    again: end,
    async stop() {
      stopped = true
      await end()
    },
  }
}
