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
    const { below, above } = ranksAt(values, low)
    return at === low || below === above ? below : below + (above - below) * (at - low)
  })
}

/** The values of rank `rank` (from 0) and of the next one. */
function ranksAt(values: Float64Array, rank: number): { below: number; above: number } {
  const bracketed = values.length < 8 * SAMPLED ? null : ranksInBracket(values, rank)
  if (bracketed !== null) return bracketed
  select(values, rank)
  // After the selection everything behind `rank` is at least as large: the next rank is the least of it.
  let above = Infinity
  for (let index = rank + 1; index < values.length; index += 1)
    if (values[index]! < above) above = values[index]!
  return { below: values[rank]!, above }
}

const SAMPLED = 512
const sample = new Float64Array(SAMPLED)
let bracket = new Float64Array()

/**
 * Takes two bounds around a rank from a sample, counts the values below them, and selects among the few between (the idea
 * of Floyd and Rivest, "Expected time bounds for selection", CACM 18, 1975).
 * @returns `null` when the rank, or the next, lies outside, as it may where values swing in step with the sample
 */
function ranksInBracket(values: Float64Array, rank: number): { below: number; above: number } | null {
  const count = values.length
  for (let index = 0; index < SAMPLED; index += 1)
    sample[index] = values[Math.floor(((index + 0.5) * count) / SAMPLED)]!
  sample.sort()
  const at = (rank / count) * SAMPLED
  // Three standard errors of a rank in the sample, and two more for small ratios.
  const reach = 3 * Math.sqrt((at * (SAMPLED - at)) / SAMPLED) + 2
  const from = sample[Math.floor(at - reach)] ?? -Infinity
  const to = sample[Math.ceil(at + reach)] ?? Infinity
  if (bracket.length < count) bracket = new Float64Array(count)
  const { below, inside } = keepBetween(values, from, to, bracket)
  const own = rank - below
  const isLast = rank === count - 1
  if (own < 0 || own + (isLast ? 0 : 1) >= inside) return null
  if (from === to) return { below: from, above: from }
  const between = bracket.subarray(0, inside)
  select(between, own)
  let above = Infinity
  for (let index = own + 1; index < inside; index += 1) if (between[index]! < above) above = between[index]!
  return { below: between[own]!, above }
}

/** Copies the values from one bound to the other, both included. @returns how many, and how many lie below them */
function keepBetween(
  values: Float64Array,
  from: number,
  to: number,
  kept: Float64Array,
): { below: number; inside: number } {
  let below = 0
  let inside = 0
  for (let index = 0; index < values.length; index += 1) {
    const value = values[index]!
    if (value < from) below += 1
    else if (value <= to) {
      kept[inside] = value
      inside += 1
    }
  }
  return { below, inside }
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
