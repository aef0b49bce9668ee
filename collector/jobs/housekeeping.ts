import { setTimeout as pause } from 'node:timers/promises'
import type { TaskList } from 'graphile-worker'
import type { Db } from '#db/platform'
import {
  compactPeriod,
  dropEmptyPartitions,
  expireReadings,
  periodsToCompact,
  sealDay,
  unsealedDays,
  surveySpace,
} from '#db/readings'
import { readTextsSetting } from '#db/platform'
import { keepTextsWithin } from '#db/logs'
import { judgeDisk } from './diskAhead.ts'
import { log } from '../platform/log.ts'
import type { AlertWriter } from '../judging/alertWriter.ts'

const DAY_MS = 86_400_000
/** A day is settled so long after its end. What comes later is sealed by a later pass. */
const GRACE_MS = 30 * 60_000
/** Partitions are kept a while after their day, so that late readings seldom need a new one. */
const PARTITION_DAYS = 2
const COMPACT_TOGETHER = 500
const LONGEST_PAUSE_MS = 5000
/** A tenth of the time is enough to seal a day of 100,000 series in a night. */
export const UNHURRIED = 9

export interface Bounds {
  /** The clock, from outside: tests run a week in a minute. */
  readonly now: () => number
  /** So many times as long as a piece of work took nothing is done after it: those who store and look go first. */
  readonly rest: number
  /** Aborted when the process is to stop: a pass then ends after the piece of work at hand. */
  readonly over: AbortSignal
}

/** Seals all settled days. Each source and day is a transaction of its own. @returns rows moved */
export async function sealSettled(db: Db, { now, rest, over }: Bounds): Promise<number> {
  const today = Math.floor((now() - GRACE_MS) / DAY_MS)
  let moved = 0
  for (const sourceDay of await unsealedDays(db, today)) {
    if (over.aborted) return moved
    const startedMs = performance.now()
    moved += await sealDay(db, sourceDay)
    const restMs = Math.min(LONGEST_PAUSE_MS, rest * (performance.now() - startedMs))
    await pause(restMs, undefined, { signal: over }).catch(() => undefined)
  }
  await dropEmptyPartitions(db, today - PARTITION_DAYS)
  return moved
}

/** Puts the small chunks of past periods together. @returns how many series and periods were */
export async function compactPast(db: Db, { now, over }: Bounds): Promise<number> {
  const beforeDay = Math.floor((now() - GRACE_MS) / DAY_MS) - 1
  let done = 0
  for (;;) {
    const periods = await periodsToCompact(db, beforeDay, COMPACT_TOGETHER)
    for (const period of periods) {
      if (over.aborted) return done
      await compactPeriod(db, period)
      done += 1
    }
    if (periods.length < COMPACT_TOGETHER) return done
  }
}

/** The jobs that keep the store small; run by the job queue, once among all collectors. */
export function housekeepingTasks(
  db: Db,
  dataFolder: string,
  alerts: AlertWriter,
  stopping: AbortSignal,
): TaskList {
  const timed =
    (what: string, work: (bounds: Bounds) => Promise<unknown>) =>
    async (_payload: unknown, helpers: { abortSignal?: AbortSignal | undefined }): Promise<void> => {
      const startedMs = Date.now()
      const result = await work({
        now: Date.now,
        rest: UNHURRIED,
        over: AbortSignal.any([
          stopping,
          ...(helpers.abortSignal === undefined ? [] : [helpers.abortSignal]),
        ]),
      })
      log.info({ result, tookMs: Date.now() - startedMs }, what)
    }
  return {
    seal: timed('settled days are sealed', (bounds) => sealSettled(db, bounds)),
    compact: timed('past periods are put together', (bounds) => compactPast(db, bounds)),
    expire: timed('what is older than its retention is deleted', async () => ({
      readings: await expireReadings(db, Math.floor(Date.now() / DAY_MS)),
      texts: await keepTextsWithin(db, await readTextsSetting(db), Date.now()),
    })),
    survey: timed('the space is surveyed', async () => {
      const survey = await surveySpace(db, dataFolder, Math.floor(Date.now() / DAY_MS))
      await judgeDisk(db, alerts, Date.now())
      return survey
    }),
  }
}

/** When the jobs run, in the queue's notation (crontab, UTC). A missed one is made up for at the start. */
export const HOUSEKEEPING_TIMES = `
*/10 * * * * seal ?fill=1h&max=2
20 1 * * * compact ?fill=2d&max=2
40 1 * * * expire ?fill=2d&max=2
5 * * * * survey ?fill=1d&max=2
`
