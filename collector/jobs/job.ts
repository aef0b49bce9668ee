import type { Db } from '#db/platform'
import type { AlertWriter } from '../judging/alertWriter.ts'

/** How a piece of regular work is held. */
export interface Bounds {
  /** The clock, from outside: tests run a week in a minute. */
  readonly now: () => number
  /** So many times as long as a piece of work took nothing is done after it: those who store and look go first. */
  readonly rest: number
  /** Aborted when the process is to stop: a pass then ends after the piece of work at hand. */
  readonly over: AbortSignal
}

export interface JobContext extends Bounds {
  readonly db: Db
  readonly dataFolder: string
  readonly alerts: AlertWriter
}

/** Regular work, done once among all collectors. One that was missed is made up for at the next start. */
export interface Job {
  /** Under which the queue knows it. */
  readonly name: string
  /** When it is done, as five fields of crontab (UTC) and how far back it is made up for. */
  readonly calendar: { readonly at: string; readonly fill: string }
  /** What it has done then, for the log. */
  readonly words: string
  /** @returns figures for the log */
  readonly run: (context: JobContext) => Promise<unknown>
}

/** Jobs that share a thread of their own: one of them at a time, in so much memory. */
export interface JobThread {
  readonly name: string
  readonly memoryMiB: { readonly old: number; readonly young: number }
  readonly jobs: readonly Job[]
}

/** The calendar of several jobs in the queue's notation. */
export const crontabOf = (jobs: readonly Job[]): string =>
  jobs.map(({ name, calendar: { at, fill } }) => `${at} ${name} ?fill=${fill}&max=2`).join('\n')
