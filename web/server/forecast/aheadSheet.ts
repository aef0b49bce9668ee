import type { Listing } from '#db/forecast'
import type { Sheet } from '../platform/workbook.ts'
import { aheadRow } from './ahead.ts'

const dayOf = (ms: number | null): string => (ms === null ? '' : new Date(ms).toISOString().slice(0, 10))

/** What is ahead as a table: dates as days (ISO 8601), UTC. */
export const aheadSheet = (rows: readonly Listing[]): Sheet => ({
  name: 'Ahead',
  head: [
    'Name',
    'What',
    'Topic',
    'Verdict',
    'Line',
    'Order by',
    'Run-out',
    'Not before (10 %)',
    'Not after (90 %)',
    'Lead time (days)',
    'What was seen',
    'Ordered',
    'Expected on',
  ],
  rows: rows.map((row) => {
    const {
      name,
      what,
      topic,
      verdict,
      line,
      orderByMs,
      runOutMs,
      earlyMs,
      lateMs,
      leadDays,
      sentence,
      order,
    } = aheadRow(row)
    return [
      name,
      what,
      topic,
      verdict,
      line,
      dayOf(orderByMs),
      dayOf(runOutMs),
      dayOf(earlyMs),
      dayOf(lateMs),
      leadDays,
      sentence,
      order?.words ?? '',
      order?.expectedOn ?? '',
    ]
  }),
})
