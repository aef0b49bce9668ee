/**
 * Percentiles with linear interpolation between the two nearest ranks: SQL:2003 `PERCENTILE_CONT`, the same as type 7 of
 * Hyndman and Fan, "Sample Quantiles in Statistical Packages" (1996).
 * @param values numbers in any order; they are moved about in place
 * @param ratios 0..1
 * @returns `null` for each when there is no value
 */
export function percentilesOf(values: Float64Array, ratios: readonly number[]): (number | null)[] {
  const count = values.length
  if (count === 0) return ratios.map(() => null)
  return ratios.map((ratio) => {
    const at = ratio * (count - 1)
    const low = Math.floor(at)
    select(values, low)
    const below = values[low]!
    if (at === low) return below
    // After the selection everything behind `low` is at least as large: the next rank is the least of it.
    let above = Infinity
    for (let index = low + 1; index < count; index += 1) if (values[index]! < above) above = values[index]!
    return below + (above - below) * (at - low)
  })
}

/** Moves the value of rank `rank` (from 0) to its place, smaller ones before it, larger ones behind. Hoare's FIND. */
function select(values: Float64Array, rank: number): void {
  let [left, right] = [0, values.length - 1]
  while (left < right) {
    const pivot = median(values[left]!, values[(left + right) >>> 1]!, values[right]!)
    let [i, j] = [left, right]
    while (i <= j) {
      while (values[i]! < pivot) i += 1
      while (values[j]! > pivot) j -= 1
      if (i <= j) {
        const swap = values[i]!
        values[i] = values[j]!
        values[j] = swap
        i += 1
        j -= 1
      }
    }
    if (j < rank) left = i
    if (rank < i) right = j
  }
}

const median = (a: number, b: number, c: number): number =>
  Math.max(Math.min(a, b), Math.min(Math.max(a, b), c))
