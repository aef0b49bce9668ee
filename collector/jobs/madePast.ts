import type { Curve, Raster } from '#core/readings'
import { PERIOD_DAYS } from '#db/readings'

/** So far back a past is made of what is computed. */
export const PAST_DAYS = 400

/** Days of one period of the store, counted from 1 January 1970. */
export interface Stretch {
  readonly fromDay: number
  readonly days: number
}

/** The days from one up to another, the newest first, each stretch within one period of the store. */
export function stretchesOf(fromDay: number, toDay: number): Stretch[] {
  const stretches: Stretch[] = []
  for (let end = toDay; end > fromDay;) {
    const start = Math.max(fromDay, Math.floor((end - 1) / PERIOD_DAYS) * PERIOD_DAYS)
    stretches.push({ fromDay: start, days: end - start })
    end = start
  }
  return stretches
}

/** What was computed for the columns of a raster; where nothing is known there is no reading. */
export function curveOf(values: Float64Array, { fromMs, stepMs }: Raster): Curve {
  const columns = [...values.keys()].filter((column) => !Number.isNaN(values[column]!))
  return {
    times: Float64Array.from(columns, (column) => fromMs + (column + 1) * stepMs - 1000),
    values: Float64Array.from(columns, (column) => values[column]!),
  }
}
