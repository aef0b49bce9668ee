/** Times (ms since the epoch, ascending) and their values, of equal length. */
export interface Curve {
  readonly times: Float64Array
  readonly values: Float64Array
}

export const NO_READINGS: Curve = { times: new Float64Array(), values: new Float64Array() }

/** Curves one after the other; each begins after the one before has ended. */
export function joinCurves(parts: readonly Curve[]): Curve {
  if (parts.length === 1) return parts[0]!
  const count = parts.reduce((total, part) => total + part.times.length, 0)
  const joined = { times: new Float64Array(count), values: new Float64Array(count) }
  let at = 0
  for (const part of parts) {
    joined.times.set(part.times, at)
    joined.values.set(part.values, at)
    at += part.times.length
  }
  return joined
}
