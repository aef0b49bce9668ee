/** The value below which this share of the sorted numbers lies, between neighbours by their distance (type 7). */
export function quantileOf(sorted: ArrayLike<number>, share: number): number {
  if (sorted.length === 0) return NaN
  const at = share * (sorted.length - 1)
  const low = Math.floor(at)
  const high = Math.min(sorted.length - 1, low + 1)
  // At infinity, where nothing is reached, there is nothing between neighbours.
  if (sorted[low] === sorted[high]) return sorted[low]!
  return sorted[low]! + (at - low) * (sorted[high]! - sorted[low]!)
}

export const sorted = (values: ArrayLike<number>): Float64Array => Float64Array.from(values).sort()
export const medianOf = (values: ArrayLike<number>): number => quantileOf(sorted(values), 0.5)

/** Half of the numbers lie closer to their median than this, times 1.4826: the deviation of a normal one. */
export function spreadOf(values: ArrayLike<number>): number {
  const middle = medianOf(values)
  return 1.4826 * medianOf(Array.from(values, (value) => Math.abs(value - middle)))
}

/** @param from both are multiplied from there on; what comes before is known to be zero in one of them */
export function dot(a: Float64Array, b: Float64Array, from = 0): number {
  // Four sums at a time do not wait for each other.
  let [one, two, three, four] = [0, 0, 0, 0]
  let index = from
  for (const end = a.length - 3; index < end; index += 4) {
    one += a[index]! * b[index]!
    two += a[index + 1]! * b[index + 1]!
    three += a[index + 2]! * b[index + 2]!
    four += a[index + 3]! * b[index + 3]!
  }
  for (; index < a.length; index += 1) one += a[index]! * b[index]!
  return one + two + (three + four)
}

/** Takes `factor` times `b` from `a`, in place. */
export function takeFrom(a: Float64Array, factor: number, b: Float64Array): void {
  for (let index = 0; index < a.length; index += 1) a[index]! -= factor * b[index]!
}
