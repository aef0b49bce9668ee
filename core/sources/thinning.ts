import type { MeasureKey } from '../catalogue/index.ts'
import type { Findings } from '../gear/index.ts'

/** Seconds between two readings that are kept, for measures that are kept less often than their source is asked. */
export type Slower = Readonly<Partial<Record<MeasureKey, number>>>

/** Which intervals a measure may be kept at, in seconds. */
export const SLOWER_CHOICES = [300, 900, 3600, 21_600] as const

/**
 * Leaves out readings of slower measures that are not due at an instant.
 * @param last when each was kept last, in ms; what is kept now is noted in it
 * @param intervalMs of the source: a reading that comes up to half of it too early counts as due
 */
export function thin(
  findings: Findings,
  at: {
    readonly atMs: number
    readonly intervalMs: number
    readonly slower: Slower
    readonly last: Map<MeasureKey, number>
  },
): Findings {
  const { atMs, intervalMs, slower, last } = at
  const left = new Set<MeasureKey>()
  for (const [measure, seconds] of Object.entries(slower) as [MeasureKey, number][]) {
    const before = last.get(measure)
    const isDue = before === undefined || atMs < before || atMs - before >= seconds * 1000 - intervalMs / 2
    if (isDue) last.set(measure, atMs)
    else left.add(measure)
  }
  if (left.size === 0) return findings
  return { ...findings, readings: findings.readings.filter(({ measure }) => !left.has(measure)) }
}

/** Over how many rows of a source each of its series has a value at least once. */
export const rowsBack = (intervalSeconds: number, slower: Slower): number =>
  Math.min(2000, 1 + Math.ceil(Math.max(0, ...Object.values(slower)) / intervalSeconds))
