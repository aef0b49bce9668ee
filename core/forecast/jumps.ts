import type { History } from './daily.ts'
import type { Model } from './regress.ts'

/** Growth that comes in steps, as it came so far. */
export interface Jumps {
  readonly sizes: readonly number[]
  /** Days from one to the next. */
  readonly intervals: readonly number[]
  readonly last: number
  readonly perDay: number
  readonly isRegular: boolean
}

const LEAST_JUMPS = 3
const LEAST_SHARE = 0.4

/**
 * Steps that are growth: three or more upward ones over two fifths of the history, or those that people have called so.
 * @param growing where people said that a step is growth
 * @param single where they said that it came once
 */
export function jumpsOf(
  model: Model,
  { atDays }: History,
  growing: readonly number[],
  single: readonly number[],
): Jumps | null {
  const span = atDays.at(-1)! - atDays[0]!
  const steps = model.terms
    .map(({ kind, at }, index) => ({ kind, at, size: model.beta[index]! }))
    .filter(({ kind, at }) => kind === 'step' && !single.includes(at))
    .sort((a, b) => a.at - b.at)
  const up = steps.filter(({ size }) => size > 0)
  const marked = up.filter(({ at }) => growing.includes(at))
  const spread = up.length < 2 ? 0 : up.at(-1)!.at - up[0]!.at
  const isGrowth = up.length >= LEAST_JUMPS && spread >= LEAST_SHARE * span
  if (!isGrowth && marked.length === 0) return null
  const down = steps.filter(({ size }) => size < 0)
  const counted = isGrowth ? (down.length >= LEAST_JUMPS ? steps : up) : marked
  const intervals = counted.slice(1).map(({ at }, index) => at - counted[index]!.at)
  const mean = intervals.reduce((sum, each) => sum + each, 0) / Math.max(1, intervals.length)
  const variance =
    intervals.reduce((sum, each) => sum + (each - mean) ** 2, 0) / Math.max(1, intervals.length)
  return {
    sizes: counted.map(({ size }) => size),
    intervals,
    last: counted.at(-1)!.at,
    perDay: counted.length / span,
    isRegular: intervals.length >= 3 && Math.sqrt(variance) < 0.35 * mean,
  }
}
