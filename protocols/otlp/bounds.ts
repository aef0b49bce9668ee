import { formatNumber } from '#core/units'
import { type ExportRequest, PayloadError } from './codec.ts'

/** What one push may bring at most. */
export interface PushBounds {
  /** Of the body, packed and unpacked. */
  readonly bytes: number
  readonly instants: number
  readonly gear: number
  readonly points: number
  /** Gear times instants: each is looked at for each. */
  readonly placed: number
}

/** Of a sender whose token is known. */
export const OF_SOURCES: PushBounds = {
  bytes: 4 * 1024 * 1024,
  instants: 3600,
  gear: 2000,
  points: 100_000,
  placed: 20_000,
}

/** Of a sender that nobody has claimed yet: enough to say who it is. */
export const OF_STRANGERS: PushBounds = {
  bytes: 512 * 1024,
  instants: 60,
  gear: 200,
  points: 10_000,
  placed: 2000,
}

/** A push brings more than is taken at once. The message says how much of what. */
export class TooMuchError extends PayloadError {}

/** @throws TooMuchError */
export function assertWithin({ resourceMetrics }: ExportRequest, bounds: PushBounds): void {
  const instants = new Set<string>()
  let points = 0
  for (const { scopeMetrics } of resourceMetrics)
    for (const { metrics } of scopeMetrics)
      for (const { gauge, sum, histogram, exponentialHistogram, summary } of metrics)
        for (const kind of [gauge, sum, histogram, exponentialHistogram, summary])
          for (const { timeUnixNano } of kind?.dataPoints ?? []) {
            points += 1
            if (instants.size <= bounds.instants) instants.add(String(timeUnixNano).slice(0, -6))
          }
  const gear = resourceMetrics.length
  const found = { points, gear, instants: instants.size, placed: gear * instants.size }
  for (const [what, words] of WORDS)
    if (found[what] > bounds[what])
      throw new TooMuchError(
        `it brings ${formatNumber(found[what], 0)} ${words}; at most ${formatNumber(bounds[what], 0)} are taken in one push. Send it in parts`,
      )
}

const WORDS = [
  ['points', 'points'],
  ['gear', 'resources'],
  ['instants', 'instants or more'],
  ['placed', 'resources times instants'],
] as const
