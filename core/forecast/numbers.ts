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

/**
 * The same of numbers in any order, by selection (Hoare, 1961): in a fraction of the time that sorting takes.
 * @param values are put into another order
 * @param shares ascending
 */
export function quantilesOf(values: Float64Array, shares: readonly number[]): number[] {
  const last = values.length - 1
  if (last < 0) return shares.map(() => NaN)
  let from = 0
  return shares.map((share) => {
    const at = share * last
    const low = Math.floor(at)
    select(values, from, low)
    from = low
    const value = values[low]!
    if (low === last) return value
    let above = Infinity
    for (let index = low + 1; index <= last; index += 1) above = Math.min(above, values[index]!)
    return above === value ? value : value + (at - low) * (above - value)
  })
}

/** Brings the number of this rank to its place: what is less stands before it, what is more behind. */
function select(values: Float64Array, first: number, rank: number): void {
  let [low, high] = [first, values.length - 1]
  while (low < high) {
    const pivot = values[(low + high) >> 1]!
    let [left, right] = [low - 1, high + 1]
    for (;;) {
      do left += 1
      while (values[left]! < pivot)
      do right -= 1
      while (values[right]! > pivot)
      if (left >= right) break
      ;[values[left], values[right]] = [values[right]!, values[left]!]
    }
    if (rank <= right) high = right
    else low = right + 1
  }
}

export const sorted = (values: ArrayLike<number>): Float64Array => Float64Array.from(values).sort()
/** @param values none of them is NaN */
export const medianOf = (values: ArrayLike<number>): number => quantilesOf(copyOf(values), HALF)[0]!
const HALF = [0.5]
// A typed copy of an array is made at once; `from` goes number by number.
const copyOf = (values: ArrayLike<number>): Float64Array => new Float64Array(values)

/** Half of the numbers lie closer to their median than this, times 1.4826: the deviation of a normal one. */
export function spreadOf(values: ArrayLike<number>): number {
  const middle = medianOf(values)
  const away = copyOf(values)
  for (let index = 0; index < away.length; index += 1) away[index] = Math.abs(away[index]! - middle)
  return 1.4826 * quantilesOf(away, HALF)[0]!
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
