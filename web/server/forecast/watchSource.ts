import { DAY_MS } from '#core/forecast'
import { countDue, listForecasts } from '#db/forecast'
import type { WatchSource } from '../shell/watchSource.ts'
import { aheadRow } from './ahead.ts'

const SOON_MS = 14 * DAY_MS
const MOST = 4

/** What must be ordered within two weeks, and is not ordered yet. */
export const ahead: WatchSource = {
  hears: ['forecasts'],
  async load({ db, nowMs }) {
    const dueBefore = new Date(nowMs + SOON_MS)
    const [count, first] = await Promise.all([
      countDue(db, dueBefore),
      listForecasts(db, ['crosses', 'over'], { dueBefore, most: MOST }),
    ])
    const saidNothing = { finding: { urgent: 0, clauses: [] }, rows: [], sourceIds: [], notes: [] }
    if (count === 0) return saidNothing
    return {
      ...saidNothing,
      aside: {
        title: 'To be ordered',
        note: `${count} within two weeks`,
        href: '/ahead',
        rows: first.map(aheadRow).map(({ id, name, line, sentence, orderByMs }) => ({
          href: `/ahead/${id}`,
          name,
          text: `${line}. ${sentence}`,
          atMs: Math.max(nowMs, orderByMs!),
        })),
      },
    }
  },
}
