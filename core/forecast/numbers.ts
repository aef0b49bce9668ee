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

const BUCKETS = 256
/** With fewer it is not worth while. */
const FEW = 64

/**
 * The same of numbers in any order: they are counted by buckets of one width, and only the buckets in which the wanted ranks
 * lie are put in order (selection by distribution; Knuth, *The Art of Computer Programming* 3, 5.2.1 and 5.3.3). That takes a
 * fraction of the time of sorting all.
 * @param values none of them is NaN
 */
export function quantilesOf(values: Float64Array, shares: readonly number[]): number[] {
  const last = values.length - 1
  let [least, most] = [Infinity, -Infinity]
  for (let index = 0; index <= last; index += 1) {
    const value = values[index]!
    if (value < least) least = value
    if (value > most) most = value
  }
  const scale = (BUCKETS - 1) / (most - least)
  if (last < FEW || !(scale > 0 && scale < Infinity)) {
    const ordered = values.slice().sort()
    return shares.map((share) => quantileOf(ordered, share))
  }
  const bucketOf = new Uint8Array(values.length)
  const counts = new Uint32Array(BUCKETS)
  for (let index = 0; index <= last; index += 1) {
    const bucket = (values[index]! - least) * scale
    bucketOf[index] = bucket
    counts[bucketOf[index]!]! += 1
  }
  const ranked = new Ranked(values, bucketOf, counts)
  return shares.map((share) => {
    const at = share * last
    const low = Math.floor(at)
    const value = ranked.at(low)
    const above = ranked.at(Math.min(last, low + 1))
    return above === value ? value : value + (at - low) * (above - value)
  })
}

/** Numbers that are in order from bucket to bucket, and within those that were asked for. */
class Ranked {
  #before = 0
  #within = new Float64Array(0)

  constructor(
    readonly values: Float64Array,
    readonly bucketOf: Uint8Array,
    readonly counts: Uint32Array,
  ) {}

  at(rank: number): number {
    if (rank < this.#before || rank >= this.#before + this.#within.length) this.#open(rank)
    return this.#within[rank - this.#before]!
  }

  #open(rank: number): void {
    let [bucket, before] = [0, 0]
    while (before + this.counts[bucket]! <= rank) before += this.counts[bucket++]!
    const within = new Float64Array(this.counts[bucket]!)
    let next = 0
    for (let index = 0; index < this.values.length; index += 1)
      if (this.bucketOf[index] === bucket) within[next++] = this.values[index]!
    this.#before = before
    this.#within = within.sort()
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
