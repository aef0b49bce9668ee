/** How a store has filled over the year. */
export type StoreStory = 'fills' | 'copy' | 'sawTooth'

export interface StoreLevel {
  readonly usedRatio: number
  readonly growthPerDay: number
  readonly story?: StoreStory
}

/** What is left of it is gone in three weeks. */
const FILLS_PER_DAY = 0.36 / 21
const FILLS_SINCE_DAYS = 20
const COPY_DAYS_AGO = 9
const COPY_TAKES_DAYS = 0.25
const COPY_RATIO = 0.24
const TOOTH_DAYS = 7
const TOOTH_PER_DAY = 0.012

/**
 * How full a store is.
 * @param days since the demo began; less than 0 before
 */
export function storeLevel({ usedRatio, growthPerDay, story }: StoreLevel, days: number): number {
  const own = usedRatio + days * growthPerDay
  switch (story) {
    case undefined:
      return Math.max(0.02, own)
    case 'fills':
      return days > -FILLS_SINCE_DAYS
        ? usedRatio + days * FILLS_PER_DAY
        : usedRatio - FILLS_SINCE_DAYS * FILLS_PER_DAY + (days + FILLS_SINCE_DAYS) * growthPerDay
    case 'copy': {
      // Beforehand it looked as it would for years; in a quarter of a day a quarter of it was taken.
      const copied = Math.min(1, Math.max(0, (days + COPY_DAYS_AGO) / COPY_TAKES_DAYS))
      return own - COPY_RATIO * (1 - copied)
    }
    case 'sawTooth': {
      const since = (((days + 3) % TOOTH_DAYS) + TOOTH_DAYS) % TOOTH_DAYS
      return own + since * TOOTH_PER_DAY
    }
    default:
      return story satisfies never
  }
}
