import { type CalendarDay, writeCalendar } from '#core/forecast'
import { formatDate } from '#core/units'
import type { Listing } from '#db/forecast'
import { aheadRow } from './ahead.ts'

/** The days by which to order and on which things run out, as a calendar; what is ordered is not reminded of. */
export function aheadCalendar(
  rows: readonly Listing[],
  { name, timeZone, origin, nowMs }: { name: string; timeZone: string; origin: string; nowMs: number },
): string {
  const days = rows.flatMap((row): CalendarDay[] => {
    const shown = aheadRow(row)
    const common = { description: shown.sentence, url: new URL(`/ahead/${row.seriesId}`, origin).href }
    const { runOutMs, orderByMs } = row
    return [
      ...(orderByMs === null || row.order !== null
        ? []
        : [
            {
              ...common,
              uid: `order-${row.seriesId}@${new URL(origin).hostname}`,
              dayMs: Math.max(nowMs, orderByMs),
              summary: `Order: ${shown.name} (${shown.line} on ${formatDate(runOutMs!, timeZone)})`,
            },
          ]),
      ...(runOutMs === null
        ? []
        : [
            {
              ...common,
              uid: `run-out-${row.seriesId}@${new URL(origin).hostname}`,
              dayMs: runOutMs,
              summary: `Runs out: ${shown.name} (${shown.line})`,
            },
          ]),
    ]
  })
  return writeCalendar(name, days, nowMs)
}
