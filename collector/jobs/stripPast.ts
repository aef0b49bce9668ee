import { setImmediate as breathe } from 'node:timers/promises'
import { DAY_MS } from '#core/forecast'
import { wattsAlonePast } from '#core/power'
import { type Db, readDemoProgress } from '#db/platform'
import { listAloneSeries, listStrips, type Strip } from '#db/power'
import { firstSealedDays, rasters, sealPast } from '#db/readings'
import type { Bounds } from './job.ts'
import { curveOf, PAST_DAYS, type Stretch, stretchesOf } from './madePast.ts'

const STEP_MS = 5 * 60_000

/**
 * What a strip would have had to carry alone on the days before it was told for the first time, as if its gear had hung on
 * it as it does now. What is there already stays as it is.
 * @returns how many days were made, over all strips
 */
export async function fillStripPasts(db: Db, { now, over }: Pick<Bounds, 'now' | 'over'>): Promise<number> {
  const series = await listAloneSeries(db)
  // While the past of the demo is laid down that of some strips is there, and of others not.
  const laid = series.size === 0 ? undefined : (await readDemoProgress(db))?.laid
  if (series.size === 0 || (laid !== undefined && laid !== 'all')) return 0
  const strips = await listStrips(db)
  const first = await firstSealedDays(db, [...series.values(), ...strips.flatMap(heardOf)])
  const today = Math.floor(now() / DAY_MS)
  let made = 0
  for (const strip of strips) {
    const id = series.get(`${strip.sourceId} ${strip.gearId}`)
    if (id === undefined) continue
    // Where one of them was not heard nothing is known.
    const from = Math.max(today - PAST_DAYS, ...heardOf(strip).map((each) => first.get(each) ?? Infinity))
    for (const stretch of stretchesOf(from, Math.min(today, first.get(id) ?? Infinity))) {
      if (over.aborted) return made
      // Before a month of which nothing is known nothing is looked for.
      if (!(await fill(db, { strip, id }, stretch))) break
      made += stretch.days
      await breathe()
    }
  }
  return made
}

const heardOf = ({ seriesId, neighbours }: Strip): number[] => [
  seriesId,
  ...neighbours.flat().map((outlet) => outlet.seriesId),
]

/** @returns whether anything of it is known */
async function fill(
  db: Db,
  { strip, id }: { readonly strip: Strip; readonly id: number },
  { fromDay, days }: Stretch,
): Promise<boolean> {
  const raster = { fromMs: fromDay * DAY_MS, stepMs: STEP_MS, columns: (days * DAY_MS) / STEP_MS }
  const { rows } = await rasters(db, heardOf(strip), raster)
  const unknown = new Float64Array(raster.columns).fill(NaN)
  const heard = (each: number): Float64Array => rows.get(each)?.last ?? unknown
  const watts = wattsAlonePast(
    heard(strip.seriesId),
    strip.neighbours.map((outlets) => outlets.map((outlet) => heard(outlet.seriesId))),
  )
  const curve = curveOf(watts, raster)
  if (curve.times.length === 0) return false
  await sealPast(db, { sourceId: strip.sourceId, fromDay, days }, new Map([[id, curve]]))
  return true
}
