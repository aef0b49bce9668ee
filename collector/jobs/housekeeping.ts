import { setTimeout as pause } from 'node:timers/promises'
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
import type { Bounds, Job } from './job.ts'

const DAY_MS = 86_400_000
/** A day is settled so long after its end. What comes later is sealed by a later pass. */
const GRACE_MS = 30 * 60_000
/** Partitions are kept a while after their day, so that late readings seldom need a new one. */
const PARTITION_DAYS = 2
const COMPACT_TOGETHER = 500
const LONGEST_PAUSE_MS = 5000
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

/** What keeps the store small. */
export const HOUSEKEEPING: readonly Job[] = [
  {
    name: 'seal',
    calendar: { at: '*/10 * * * *', fill: '1h' },
    words: 'settled days are sealed',
    run: ({ db, ...bounds }) => sealSettled(db, bounds),
  },
  {
    name: 'compact',
    calendar: { at: '20 1 * * *', fill: '2d' },
    words: 'past periods are put together',
    run: ({ db, ...bounds }) => compactPast(db, bounds),
  },
  {
    name: 'expire',
    calendar: { at: '40 1 * * *', fill: '2d' },
    words: 'what is older than its retention is deleted',
    run: async ({ db, dataFolder, now }) => {
      const readings = await expireReadings(db, Math.floor(now() / DAY_MS))
      const texts = await keepTextsWithin(db, await readTextsSetting(db), now())
      await surveySpace(db, dataFolder, now())
      return { readings, texts }
    },
  },
  {
    name: 'survey',
    calendar: { at: '5 * * * *', fill: '1d' },
    words: 'the space is surveyed',
    run: async ({ db, dataFolder, alerts, now }) => {
      const survey = await surveySpace(db, dataFolder, now())
      await judgeDisk(db, alerts, now())
      return survey
    },
  },
]
