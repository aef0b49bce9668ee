import { parseCrontab } from 'graphile-worker'
import { expect, test } from 'vitest'
import { crontabOf } from './job.ts'
import { THREADS } from './threads.ts'

test('the queue understands every calendar, and no two jobs have one name', () => {
  const jobs = THREADS.flatMap((thread) => thread.jobs)
  const items = parseCrontab(crontabOf(jobs))
  expect(items.map(({ task }) => task)).toEqual(jobs.map(({ name }) => name))
  expect(
    items.every(({ options }) => options.backfillPeriod > 0),
    'what was missed is made up for',
  ).toBe(true)
  expect(new Set(jobs.map(({ name }) => name)).size).toBe(jobs.length)
})
