import { seriesBeside, type ForecastRow } from '#db/forecast'
import type { Db } from '#db/platform'

/** The series in whose unit a thing is forecast: its own, or that of the amount beside it. */
export async function seriesOfAmount(db: Db, { seriesId, measure, body }: ForecastRow): Promise<number> {
  return body.measure === measure ? seriesId : ((await seriesBeside(db, seriesId, body.measure)) ?? seriesId)
}
