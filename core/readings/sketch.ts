import { type ByteReader, type ByteWriter, zigzag, unzigzag } from './bytes.ts'

/** A percentile from a sketch is off by at most this part of the true value. */
export const SKETCH_ERROR = 0.02

const GAMMA = (1 + SKETCH_ERROR) / (1 - SKETCH_ERROR)
const LOG_GAMMA = Math.log(GAMMA)
/** The value that stands for a bucket lies within the error of both its ends. */
const bucketValue = (index: number): number =>
  Math.min(Number.MAX_VALUE, (2 * Math.exp(index * LOG_GAMMA)) / (GAMMA + 1))
const bucketOf = (size: number): number => Math.ceil(Math.log(Math.min(size, Number.MAX_VALUE)) / LOG_GAMMA)

/**
 * How often values of each size occurred, in buckets whose width grows with the value: percentiles of anything that was
 * added, with a relative error of at most 2 %, and sketches of several spans added together are the sketch of all.
 * Source: Masson, Rim, Lee, "DDSketch", PVLDB 12 (2019), §2.
 */
export class Sketch {
  readonly #above = new Map<number, number>()
  readonly #below = new Map<number, number>()
  #zeros = 0
  #count = 0

  get count(): number {
    return this.#count
  }

  /** NaN values are left out. */
  addAll(values: Float64Array): this {
    for (let index = 0; index < values.length; index += 1) {
      const value = values[index]!
      if (value > 0) this.#put(this.#above, bucketOf(value), 1)
      else if (value < 0) this.#put(this.#below, bucketOf(-value), 1)
      else if (value === 0) {
        this.#zeros += 1
        this.#count += 1
      }
    }
    return this
  }

  #put(side: Map<number, number>, bucket: number, times: number): void {
    side.set(bucket, (side.get(bucket) ?? 0) + times)
    this.#count += times
  }

  /** The value that at least `ratio` (0..1) of all are at or below, nearest rank; `null` when nothing was added. */
  percentile(ratio: number): number | null {
    if (this.#count === 0) return null
    let left = Math.max(1, Math.ceil(ratio * this.#count))
    const ascending = (side: Map<number, number>) => [...side].sort(([a], [b]) => a - b)
    for (const [bucket, times] of ascending(this.#below).reverse()) {
      left -= times
      if (left <= 0) return -bucketValue(bucket)
    }
    left -= this.#zeros
    if (left <= 0) return 0
    const above = ascending(this.#above)
    for (const [bucket, times] of above) {
      left -= times
      if (left <= 0) return bucketValue(bucket)
    }
    return bucketValue(above.at(-1)?.[0] ?? 0)
  }

  /** The share of all that lies above a value, 0..1; what falls into the same bucket as the value counts as not above. */
  shareAbove(value: number): number | null {
    if (this.#count === 0) return null
    let above = 0
    const own = value === 0 ? 0 : bucketOf(Math.abs(value))
    for (const [bucket, times] of this.#above) if (value <= 0 || bucket > own) above += times
    if (value < 0) {
      above += this.#zeros
      for (const [bucket, times] of this.#below) if (bucket < own) above += times
    }
    return above / this.#count
  }

  /** The same for what lies below. */
  shareBelow(value: number): number | null {
    if (this.#count === 0) return null
    let below = 0
    const own = value === 0 ? 0 : bucketOf(Math.abs(value))
    for (const [bucket, times] of this.#below) if (value >= 0 || bucket > own) below += times
    if (value > 0) {
      below += this.#zeros
      for (const [bucket, times] of this.#above) if (bucket < own) below += times
    }
    return below / this.#count
  }

  write(writer: ByteWriter): void {
    writer.varint(this.#zeros)
    for (const side of [this.#above, this.#below]) {
      const buckets = [...side].sort(([a], [b]) => a - b)
      writer.varint(buckets.length)
      let before = 0
      for (const [bucket, times] of buckets) {
        writer.varint(zigzag(bucket - before))
        writer.varint(times)
        before = bucket
      }
    }
  }

  /** Adds a sketch that was written. @throws RangeError when the bytes end too soon */
  addWritten(reader: ByteReader): this {
    const zeros = reader.varint()
    this.#zeros += zeros
    this.#count += zeros
    for (const side of [this.#above, this.#below]) {
      let bucket = 0
      for (let left = reader.varint(); left > 0; left -= 1) {
        bucket += unzigzag(reader.varint())
        this.#put(side, bucket, reader.varint())
      }
    }
    return this
  }
}
