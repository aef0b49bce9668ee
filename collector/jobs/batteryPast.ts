import { setImmediate as breathe } from 'node:timers/promises'
import { batteryAge } from '#core/power'
import { DAY_MS, HOUR_MS } from '#core/forecast'
import type { Db } from '#db/platform'
import { listAgeSeries } from '#db/power'
import { firstSealedDays, sealPast } from '#db/readings'
import type { Bounds } from './job.ts'
import { curveOf, PAST_DAYS, stretchesOf } from './madePast.ts'

/**
 * Batteries get older by the clock: what is noted of them today holds for the days before, so that they have a past and a
 * forecast at once. What is there already stays as it is.
 * @returns how many days were made, over all batteries
 */
export async function fillBatteryPasts(db: Db, { now, over }: Pick<Bounds, 'now' | 'over'>): Promise<number> {
  const series = await listAgeSeries(db)
  const first = await firstSealedDays(
    db,
    series.map(({ id }) => id),
  )
  const today = Math.floor(now() / DAY_MS)
  let made = 0
  for (const { id, sourceId, ...battery } of series) {
    const installedDay = Date.parse(battery.installed) / DAY_MS
    const until = Math.min(today, first.get(id) ?? Infinity)
    for (const { fromDay, days } of stretchesOf(Math.max(today - PAST_DAYS, installedDay), until)) {
      if (over.aborted) return made
      const raster = { fromMs: fromDay * DAY_MS, stepMs: HOUR_MS, columns: days * 24 }
      const ages = Float64Array.from({ length: raster.columns }, (_, column) =>
        batteryAge(battery, raster.fromMs + column * HOUR_MS),
      )
      await sealPast(db, { sourceId, fromDay, days }, new Map([[id, curveOf(ages, raster)]]))
      made += days
      await breathe()
    }
  }
  return made
}
