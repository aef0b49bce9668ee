import { DAY_MS } from '#core/forecast'
import { listForecasts } from '#db/forecast'
import type { WatchSource } from '../shell/watchSource.ts'
import { aheadRow } from './ahead.ts'

const SOON_MS = 14 * DAY_MS
const MOST = 4

/** What must be ordered within two weeks, and is not ordered yet. */
export const ahead: WatchSource = {
  hears: ['forecasts'],
  async load({ db, nowMs }) {
    const due = (await listForecasts(db, ['crosses', 'over'], { orderBefore: new Date(nowMs + SOON_MS) }))
      .filter(({ order }) => order === null)
      .map(aheadRow)
    const saidNothing = { finding: { urgent: 0, clauses: [] }, rows: [], sourceIds: [], notes: [] }
    if (due.length === 0) return saidNothing
    return {
      ...saidNothing,
      aside: {
        title: 'To be ordered',
        note: `${due.length} within two weeks`,
        href: '/ahead',
        rows: due.slice(0, MOST).map(({ id, name, line, sentence, orderByMs }) => ({
          href: `/ahead/${id}`,
          name,
          text: `${line}. ${sentence}`,
          atMs: Math.max(nowMs, orderByMs!),
        })),
      },
    }
  },
}
