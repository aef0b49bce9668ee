export const DAY_MS = 86_400_000
/** Days of a merged chunk and of a row of summaries. */
export const PERIOD_DAYS = 30

/** The UTC day of an instant, counted from 1970-01-01. */
export const dayOf = (atMs: number): number => Math.floor(atMs / DAY_MS)
export const periodOf = (day: number): number => Math.floor(day / PERIOD_DAYS)
