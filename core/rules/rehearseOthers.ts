import type { Curve } from '../readings/index.ts'
import { isMemberBeyond } from './counts.ts'
import type { Stretch } from './rehearse.ts'
import type { CountRule, Severity } from './rule.ts'

/**
 * How many members of a count rule were beyond their line, step by step. Over a long past the steps are longer than the
 * time between two looks at the living: what comes and goes within a step is not seen.
 * @param freshMs for how long a member counts after its last reading
 * @returns nothing for steps in which none was heard
 */
export function countedCurve(
  rule: CountRule,
  members: readonly { readonly curve: Curve; readonly freshMs: number }[],
  { fromMs, toMs, stepMs }: { readonly fromMs: number; readonly toMs: number; readonly stepMs: number },
): Curve {
  const steps = Math.max(0, Math.floor((toMs - fromMs) / stepMs))
  const beyond = new Int32Array(steps)
  const known = new Int32Array(steps)
  for (const { curve, freshMs } of members) {
    const { times, values } = curve
    let last = -1
    for (let step = 0; step < steps; step += 1) {
      const atMs = fromMs + (step + 1) * stepMs
      while (last + 1 < times.length && times[last + 1]! <= atMs) last += 1
      if (last < 0 || atMs - times[last]! > freshMs) continue
      known[step]! += 1
      if (isMemberBeyond(rule, values[last]!)) beyond[step]! += 1
    }
  }
  const heard = Array.from(known.keys()).filter((step) => known[step]! > 0)
  return {
    times: Float64Array.from(heard, (step) => fromMs + (step + 1) * stepMs),
    values: Float64Array.from(heard, (step) => beyond[step]!),
  }
}

/** Of so many spacings around a gap the middle one says how often something was heard then. */
const SPACINGS = 9
/** A gap is one only if it is longer than so many usual spacings: older readings may be farther apart than live ones. */
const LONGER = 3

/**
 * Stretches in which nothing was heard for longer than `afterMs`, each from the moment at which that would have been
 * noticed.
 * @param others of what should be heard meanwhile, in order; a gap counts only if some of them lie in it. `null`: any gap counts
 */
export function gapsOf(
  times: ArrayLike<number>,
  others: ArrayLike<number> | null,
  {
    afterMs,
    toMs,
    severity,
  }: { readonly afterMs: number; readonly toMs: number; readonly severity: Severity },
): Stretch[] {
  const stretches: Stretch[] = []
  // The first gap is held against those that come after it.
  const spacings = Array.from(
    { length: Math.min(SPACINGS, Math.max(0, times.length - 1)) },
    (_, index) => times[index + 1]! - times[index]!,
  )
  let at = 0
  const isHeardWithin = (fromMs: number, endMs: number): boolean => {
    if (others === null) return true
    while (at < others.length && others[at]! <= fromMs) at += 1
    return at < others.length && others[at]! < endMs
  }
  for (let index = 0; index < times.length; index += 1) {
    const lastMs = times[index]!
    const nextMs = times[index + 1] ?? null
    const gapMs = (nextMs ?? toMs) - lastMs
    const usual = [...spacings].sort((a, b) => a - b)[Math.floor(spacings.length / 2)] ?? 0
    const limitMs = Math.max(afterMs, LONGER * usual)
    if (gapMs > limitMs && isHeardWithin(lastMs + limitMs / 2, nextMs ?? toMs))
      stretches.push({ fromMs: lastMs + limitMs, toMs: nextMs, severity })
    if (nextMs === null) continue
    spacings.push(gapMs)
    if (spacings.length > SPACINGS) spacings.shift()
  }
  return stretches
}

/** Instants of several series as one, in order, each once. */
export function mergedTimes(curves: readonly Curve[]): Float64Array {
  const all = new Set<number>()
  for (const { times } of curves) for (const atMs of times) all.add(atMs)
  return Float64Array.from(all).sort()
}
