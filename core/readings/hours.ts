import { ByteReader, ByteWriter } from './bytes.ts'
import { ChunkError, decodeChunk, encodeChunk, lowerBound, type Squeezer, summaryOf } from './chunk.ts'
import type { Curve } from './curve.ts'

export const HOUR_MS = 3_600_000

/** Summaries of whole hours (UTC), ascending; hours without a number are not among them. All columns are equally long. */
export interface Hours {
  /** Beginning of each hour, ms since the epoch. */
  readonly times: Float64Array
  readonly count: Float64Array
  readonly min: Float64Array
  readonly max: Float64Array
  readonly sum: Float64Array
  readonly last: Float64Array
}

const COLUMNS = ['count', 'min', 'max', 'sum', 'last'] as const

export const NO_HOURS: Hours = {
  times: new Float64Array(),
  count: new Float64Array(),
  min: new Float64Array(),
  max: new Float64Array(),
  sum: new Float64Array(),
  last: new Float64Array(),
}

/** Sums up readings hour by hour. NaN readings are left out. */
export function hoursOf({ times, values }: Curve): Hours {
  const rows: { atMs: number; summary: ReturnType<typeof summaryOf> }[] = []
  for (let start = 0; start < times.length;) {
    const atMs = Math.floor(times[start]! / HOUR_MS) * HOUR_MS
    const end = lowerBound(times, atMs + HOUR_MS)
    const summary = summaryOf(values.subarray(start, end))
    if (summary.numbers > 0) rows.push({ atMs, summary })
    start = end
  }
  const column = (pick: (row: (typeof rows)[number]) => number) => Float64Array.from(rows, pick)
  return {
    times: column((row) => row.atMs),
    count: column((row) => row.summary.numbers),
    min: column((row) => row.summary.min),
    max: column((row) => row.summary.max),
    sum: column((row) => row.summary.sum),
    last: column((row) => row.summary.last),
  }
}

/** `base` with the hours from `fromMs` up to (not with) `toMs` replaced by `fresh`, which lies inside them. */
export function replaceHours(base: Hours, fresh: Hours, fromMs: number, toMs: number): Hours {
  const [start, end] = [lowerBound(base.times, fromMs), lowerBound(base.times, toMs)]
  const splice = (old: Float64Array, middle: Float64Array): Float64Array => {
    const joined = new Float64Array(start + middle.length + old.length - end)
    joined.set(old.subarray(0, start))
    joined.set(middle, start)
    joined.set(old.subarray(end), start + middle.length)
    return joined
  }
  return mapColumns((name) => splice(base[name], fresh[name]))
}

/** The hours whose beginning lies from `fromMs` up to, not with, `toMs`. */
export function hoursBetween(hours: Hours, fromMs: number, toMs: number): Hours {
  const [start, end] = [lowerBound(hours.times, fromMs), lowerBound(hours.times, toMs)]
  return mapColumns((name) => hours[name].subarray(start, end))
}

/** One after the other; each begins after the one before has ended. */
export function joinHours(parts: readonly Hours[]): Hours {
  return mapColumns((name) => {
    const joined = new Float64Array(parts.reduce((total, part) => total + part[name].length, 0))
    let at = 0
    for (const part of parts) {
      joined.set(part[name], at)
      at += part[name].length
    }
    return joined
  })
}

function mapColumns(make: (name: keyof Hours) => Float64Array): Hours {
  return {
    times: make('times'),
    count: make('count'),
    min: make('min'),
    max: make('max'),
    sum: make('sum'),
    last: make('last'),
  }
}

/** Hours as bytes: each column as a chunk with its length before it. */
export function encodeHours(hours: Hours, squeezer: Squeezer): Uint8Array {
  const writer = new ByteWriter()
  for (const name of COLUMNS) {
    const bytes = encodeChunk({ times: hours.times, values: hours[name] }, squeezer)
    writer.varint(bytes.length)
    writer.append(bytes)
  }
  return writer.bytes()
}

/** @throws ChunkError when the bytes were altered */
export function decodeHours(bytes: Uint8Array, squeezer: Squeezer): Hours {
  const reader = new ByteReader(bytes)
  const column = (): Curve => {
    try {
      return decodeChunk(reader.take(reader.varint()), squeezer)
    } catch (error) {
      throw error instanceof RangeError ? new ChunkError(`hours cannot be read: ${error.message}`) : error
    }
  }
  const { times, values: count } = column()
  const [min, max, sum, last] = [column().values, column().values, column().values, column().values]
  if (reader.at !== bytes.length) throw new ChunkError('bytes follow the end of the hours')
  return { times, count, min, max, sum, last }
}

/** One bucket of an aggregation; `mean` is per reading. */
export interface Bucket {
  readonly fromMs: number
  readonly count: number
  readonly min: number
  readonly max: number
  readonly mean: number
  readonly sum: number
  readonly last: number
}

/**
 * Hours gathered into buckets of `bucketMs`, a whole number of hours, that begin at `fromMs + k × bucketMs`. Buckets
 * without readings are left out.
 */
export function bucketHours(hours: Hours, fromMs: number, bucketMs: number): Bucket[] {
  const buckets = new Map<number, Bucket>()
  hours.times.forEach((atMs, index) => {
    const start = fromMs + Math.floor((atMs - fromMs) / bucketMs) * bucketMs
    const before = buckets.get(start)
    const count = (before?.count ?? 0) + hours.count[index]!
    const sum = (before?.sum ?? 0) + hours.sum[index]!
    buckets.set(start, {
      fromMs: start,
      count,
      sum,
      mean: sum / count,
      min: Math.min(before?.min ?? Infinity, hours.min[index]!),
      max: Math.max(before?.max ?? -Infinity, hours.max[index]!),
      last: hours.last[index]!,
    })
  })
  return [...buckets.values()]
}

/** Readings gathered into buckets of any length. NaN readings are left out. */
export function bucketCurve({ times, values }: Curve, fromMs: number, bucketMs: number): Bucket[] {
  const buckets: Bucket[] = []
  for (let start = 0; start < times.length;) {
    const at = fromMs + Math.floor((times[start]! - fromMs) / bucketMs) * bucketMs
    const end = lowerBound(times, at + bucketMs)
    const { numbers: count, min, max, sum, last } = summaryOf(values.subarray(start, end))
    if (count > 0) buckets.push({ fromMs: at, count, min, max, sum, mean: sum / count, last })
    start = end
  }
  return buckets
}
