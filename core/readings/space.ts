import type { MeasureKey } from '../catalogue/index.ts'

const YEAR_DAYS = 365

/** How the disk will fill, as far as that can be told. */
export type SpaceAhead =
  | { readonly kind: 'tooEarly' }
  | { readonly kind: 'notInSight'; readonly bytesADay: number; readonly inAYearBytes: number }
  | {
      readonly kind: 'fills'
      readonly bytesADay: number
      readonly inAYearBytes: number
      readonly inDays: number
    }

/** The size of the store on one day, and what was free beside it; days since 1970-01-01, bytes. */
export interface SizeOfDay {
  readonly day: number
  readonly databaseBytes: number
  readonly freeBytes: number | null
}

/** Fewer days say nothing of a rate: the first ones hold what was laid down at the start. */
const LEAST_DAYS = 3

/**
 * When the disk is full at the present rate. The rate is the median of the daily growth of the last thirty days: a bulk
 * import or a clean-up is a step, and no rate.
 * @param sizes ascending days
 */
export function spaceAhead(sizes: readonly SizeOfDay[]): SpaceAhead {
  const last = sizes.at(-1)
  const recent = sizes.filter((each) => last !== undefined && each.day > last.day - 31)
  const growth = recent.slice(1).map((each, index) => {
    const before = recent[index]!
    return (each.databaseBytes - before.databaseBytes) / (each.day - before.day)
  })
  if (last === undefined || growth.length < LEAST_DAYS) return { kind: 'tooEarly' }
  const sorted = growth.toSorted((a, b) => a - b)
  const bytesADay = sorted[Math.floor(sorted.length / 2)]!
  const inAYearBytes = last.databaseBytes + Math.max(0, bytesADay) * YEAR_DAYS
  const inDays = last.freeBytes === null || bytesADay <= 0 ? Infinity : last.freeBytes / bytesADay
  return inDays > 3 * YEAR_DAYS
    ? { kind: 'notInSight', bytesADay, inAYearBytes }
    : { kind: 'fills', bytesADay, inAYearBytes, inDays }
}

/** From this many days on a full disk ahead is worth a warning, and fewer are critical. */
export const DISK_LINES = { warningDays: 30, criticalDays: 7 } as const

/** How much a full disk ahead matters; `null` while it does not. */
export function diskSeverity(ahead: SpaceAhead): 'critical' | 'warning' | null {
  if (ahead.kind !== 'fills') return null
  if (ahead.inDays <= DISK_LINES.criticalDays) return 'critical'
  return ahead.inDays <= DISK_LINES.warningDays ? 'warning' : null
}

export interface MeasureSpace {
  readonly measure: MeasureKey
  readonly series: number
  readonly readings: number
  readonly bytes: number
  readonly summaryBytes: number
  readonly firstMs: number | null
}

export interface AgeSpace {
  readonly fromDay: number
  readonly readings: number
  readonly bytes: number
}

/** Who takes how much of the store. */
export interface SpaceShares {
  readonly atMs: number
  readonly measures: readonly MeasureSpace[]
  readonly ages: readonly AgeSpace[]
}
