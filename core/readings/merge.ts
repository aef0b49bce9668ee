import type { Curve } from './curve.ts'

/** An instant for which two different values came. */
export interface Correction {
  readonly atMs: number
  readonly was: number
  readonly became: number
}

/**
 * Two curves as one, each instant once. Where both have an instant the later-received value stands; where the two
 * differ that is a correction, and the earlier one is handed out with it. Equal values are one reading.
 */
export function mergeCurves(earlier: Curve, later: Curve): { curve: Curve; corrections: Correction[] } {
  const [a, b] = [earlier.times, later.times]
  if (a.length === 0) return { curve: later, corrections: [] }
  if (b.length === 0) return { curve: earlier, corrections: [] }
  const times = new Float64Array(a.length + b.length)
  const values = new Float64Array(a.length + b.length)
  const corrections: Correction[] = []
  let [i, j, at] = [0, 0, 0]
  while (i < a.length || j < b.length) {
    const first = a[i] ?? Infinity
    const second = b[j] ?? Infinity
    times[at] = Math.min(first, second)
    if (first < second) values[at] = earlier.values[i++]!
    else {
      values[at] = later.values[j++]!
      if (first === second) {
        const was = earlier.values[i++]!
        if (!Object.is(was, values[at])) corrections.push({ atMs: first, was, became: values[at]! })
      }
    }
    at += 1
  }
  return { curve: { times: times.slice(0, at), values: values.slice(0, at) }, corrections }
}
