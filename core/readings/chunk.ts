import { ByteReader, ByteWriter, crc32 } from './bytes.ts'
import type { Curve } from './curve.ts'
import { powerOfTen, scaleOf } from './scale.ts'
import { readTimes, skipTimes, writeTimes } from './times.ts'
import { readValues, residualsOf, VALUES, writeResiduals, writeXor } from './values.ts'

/** A general compressor of bytes (DEFLATE, RFC 1951), given from outside: the core brings none. */
export interface Squeezer {
  readonly squeeze: (bytes: Uint8Array) => Uint8Array
  /** @throws when the bytes do not unpack to exactly `size` bytes */
  readonly unsqueeze: (bytes: Uint8Array, size: number) => Uint8Array
  /** The same sum as `crc32`, where something faster than ours is at hand. */
  readonly crc32?: (bytes: Uint8Array) => number
}

/** What a page says of itself, without its readings being decoded. NaN readings are counted and nothing else. */
export interface PageHead {
  readonly count: number
  readonly firstMs: number
  readonly lastMs: number
  /** Readings that are numbers. */
  readonly numbers: number
  readonly min: number
  readonly max: number
  readonly sum: number
  readonly last: number
}

interface Page extends PageHead {
  readonly layouts: number
  readonly plainSize: number
  readonly body: Uint8Array
}

/** Stored bytes that are not what was stored. */
export class ChunkError extends Error {}

const MAGIC = 0xa7
const VERSION = 1
const MOST_IN_A_PAGE = 8192
const SQUEEZED = 128

/**
 * Readings of one series as bytes, losslessly: every float64 (the payload of a NaN aside) at every whole millisecond.
 *
 * Chunk, version 1: `0xA7`, version, number of pages (varint), pages. Page: length (varint), then of that length: count,
 * first instant (zig-zag varint, ms), span (varint, ms), numbers (varint); min, max, sum, last (float64, only where there
 * are numbers); layouts (bits 0–1 times, 2–4 values, 7 squeezed); plain size of the body (varint), body; CRC-32 of all
 * these. A page has at most 8 192 readings and stands alone, so that a span is read without the rest.
 * @param curve ascending instants, each once, whole milliseconds
 * @throws RangeError when they are not
 */
export function encodeChunk(curve: Curve, squeezer: Squeezer): Uint8Array {
  checkTimes(curve)
  const count = curve.times.length
  const pages = Math.ceil(count / MOST_IN_A_PAGE)
  const writer = new ByteWriter()
  writer.byte(MAGIC)
  writer.byte(VERSION)
  writer.varint(pages)
  for (let page = 0; page < pages; page += 1) {
    const [from, to] = [Math.floor((count * page) / pages), Math.floor((count * (page + 1)) / pages)]
    const bytes = encodePage(curve.times.slice(from, to), curve.values.slice(from, to), squeezer)
    writer.varint(bytes.length)
    writer.append(bytes)
  }
  return writer.bytes()
}

function checkTimes({ times, values }: Curve): void {
  if (times.length !== values.length)
    throw new RangeError(`${times.length} instants with ${values.length} values`)
  for (let index = 0; index < times.length; index += 1) {
    const atMs = times[index]!
    if (!Number.isSafeInteger(atMs) || Math.abs(atMs) > 2 ** 51)
      throw new RangeError(`${atMs} is not a whole millisecond`)
    if (index > 0 && atMs <= times[index - 1]!)
      throw new RangeError(`the instant ${atMs} does not come after ${times[index - 1]}`)
  }
}

function encodePage(times: Float64Array, values: Float64Array, squeezer: Squeezer): Uint8Array {
  const scaled = scaleOf(values)
  const head = summaryOf(values, scaled)
  const writer = new ByteWriter()
  writer.varint(times.length)
  writer.signed(times[0]!)
  writer.varint(times.at(-1)! - times[0]!)
  writer.varint(head.numbers)
  if (head.numbers > 0) for (const value of [head.min, head.max, head.sum, head.last]) writer.float(value)
  const [best, ...others] = bodies(times, values, scaled, squeezer)
  const { layouts, plainSize, bytes } = others.reduce(
    (least, each) => (each.bytes.length < least.bytes.length ? each : least),
    best!,
  )
  writer.byte(layouts)
  writer.varint(plainSize)
  writer.append(bytes)
  writer.uint32(crc32(writer.view(0)))
  return writer.bytes()
}

interface Body {
  readonly layouts: number
  readonly plainSize: number
  readonly bytes: Uint8Array
}

/** The ways in which a page may be laid down; the smallest one is kept. */
function bodies(
  times: Float64Array,
  values: Float64Array,
  scaled: ReturnType<typeof scaleOf>,
  squeezer: Squeezer,
): Body[] {
  const lay = (layout: number, write: (writer: ByteWriter) => void): { plain: Body; squeezed: Body } => {
    const writer = new ByteWriter()
    const layouts = writeTimes(times, writer) | (layout << 2)
    write(writer)
    const bytes = writer.bytes()
    const plain = { layouts, plainSize: bytes.length, bytes }
    return {
      plain,
      get squeezed() {
        return { ...plain, layouts: layouts | SQUEEZED, bytes: squeezer.squeeze(bytes) }
      },
    }
  }
  if (isConstant(values)) return [lay(VALUES.constant, (writer) => writer.float(values[0]!)).plain]
  const residuals = scaled === null ? null : residualsOf(scaled)
  if (residuals === null) {
    const xor = lay(VALUES.xor, (writer) => writeXor(values, writer))
    return [xor.plain, xor.squeezed]
  }
  const packed = lay(VALUES.packed, (writer) => writeResiduals(residuals, VALUES.packed, writer))
  const planes = lay(VALUES.planes, (writer) => writeResiduals(residuals, VALUES.planes, writer))
  return [packed.plain, packed.squeezed, planes.squeezed]
}

const isConstant = (values: Float64Array): boolean => values.every((value) => Object.is(value, values[0]))

/**
 * Count, extremes, sum and last of the numbers among some values. A sum of decimals is the exact one, rounded once,
 * where it can be had.
 */
export function summaryOf(
  values: Float64Array,
  scaled: ReturnType<typeof scaleOf> = scaleOf(values),
): Omit<PageHead, 'count' | 'firstMs' | 'lastMs'> {
  let min = Infinity
  let max = -Infinity
  let sum = 0
  let last = Number.NaN
  let numbers = 0
  for (let index = 0; index < values.length; index += 1) {
    const value = values[index]!
    if (Number.isNaN(value)) continue
    if (value < min) min = value
    if (value > max) max = value
    sum += value
    last = value
    numbers += 1
  }
  if (scaled !== null) {
    const whole = scaled.wholes.reduce((total, each) => total + each, 0)
    if (Number.isSafeInteger(whole)) sum = whole / powerOfTen(scaled.exponent)
  }
  return { numbers, min, max, sum, last }
}

/** The pages of a chunk, oldest first, their checksums tried. @throws ChunkError when the bytes are not a whole chunk */
function pagesOf(bytes: Uint8Array, sumOf = crc32): Page[] {
  try {
    const reader = new ByteReader(bytes)
    const magic = reader.byte()
    const version = reader.byte()
    if (magic !== MAGIC || version !== VERSION)
      throw new ChunkError(`a chunk begins with ${magic} ${version}, not with ${MAGIC} ${VERSION}`)
    const count = reader.varint()
    if (count > bytes.length) throw new ChunkError('a chunk says that it has more pages than bytes')
    const pages = Array.from({ length: count }, () => readPage(reader.take(reader.varint()), sumOf))
    if (reader.at !== bytes.length)
      throw new ChunkError(`${bytes.length - reader.at} bytes follow the end of a chunk`)
    return pages
  } catch (error) {
    throw asChunkError(error)
  }
}

function readPage(bytes: Uint8Array, sumOf: (bytes: Uint8Array) => number): Page {
  const end = bytes.length - 4
  if (end < 0) throw new ChunkError('a page is too short')
  const tail = new ByteReader(bytes, end)
  if (sumOf(bytes.subarray(0, end)) !== tail.uint32())
    throw new ChunkError('a page does not fit its checksum: the stored bytes have changed')
  const reader = new ByteReader(bytes.subarray(0, end))
  const count = reader.varint()
  if (count < 1 || count > MOST_IN_A_PAGE) throw new ChunkError(`a page says that it has ${count} readings`)
  const firstMs = reader.signed()
  const lastMs = firstMs + reader.varint()
  const numbers = reader.varint()
  const [min, max, sum, last] =
    numbers > 0
      ? [reader.float(), reader.float(), reader.float(), reader.float()]
      : [Infinity, -Infinity, 0, Number.NaN]
  const layouts = reader.byte()
  const plainSize = reader.varint()
  return {
    count,
    firstMs,
    lastMs,
    numbers,
    min,
    max,
    sum,
    last,
    layouts,
    plainSize,
    body: reader.take(end - reader.at),
  }
}

const asChunkError = (error: unknown): unknown =>
  error instanceof RangeError ? new ChunkError(`a chunk cannot be read: ${error.message}`) : error

/** What each page of a chunk says of itself; no reading is decoded. @throws ChunkError */
export const pageHeads = (bytes: Uint8Array): PageHead[] =>
  pagesOf(bytes).map(({ count, firstMs, lastMs, numbers, min, max, sum, last }) => ({
    count,
    firstMs,
    lastMs,
    numbers,
    min,
    max,
    sum,
    last,
  }))

/** How many readings a chunk holds. @throws ChunkError */
export const readingsIn = (bytes: Uint8Array): number =>
  pagesOf(bytes).reduce((total, page) => total + page.count, 0)

/**
 * The readings of a chunk between two instants, both included; pages outside are not decoded.
 * @throws ChunkError when the bytes were altered; a wrong number never comes out
 */
export const decodeChunk = (
  bytes: Uint8Array,
  squeezer: Squeezer,
  fromMs = -Infinity,
  toMs = Infinity,
): Curve => decodeChunks([bytes], squeezer, fromMs, toMs)

/**
 * The same of several chunks of one series, each beginning after the one before has ended, into one pair of arrays.
 * @throws ChunkError
 */
export function decodeChunks(
  chunks: readonly Uint8Array[],
  squeezer: Squeezer,
  fromMs = -Infinity,
  toMs = Infinity,
): Curve {
  const pages = pagesWithin(chunks, squeezer, { fromMs, toMs })
  const count = countIn(pages)
  const times = new Float64Array(count)
  const values = new Float64Array(count)
  let at = 0
  for (const page of pages) {
    decodePage(page, squeezer, times.subarray(at, at + page.count), values.subarray(at, at + page.count))
    at += page.count
  }
  return cut({ times, values }, fromMs, toMs)
}

/**
 * Only the numbers among the values of several chunks of one series between two instants, both included: the instants
 * of pages that lie wholly inside are not decoded, and a NaN is left out.
 * @param room taken for the numbers where it is large enough
 * @returns in the order of time; valid until `room` is used again
 * @throws ChunkError
 */
export function decodeNumbers(
  chunks: readonly Uint8Array[],
  squeezer: Squeezer,
  span: { readonly fromMs: number; readonly toMs: number },
  room: Float64Array = new Float64Array(),
): Float64Array {
  const pages = pagesWithin(chunks, squeezer, span)
  const count = countIn(pages)
  const numbers = room.length < count ? new Float64Array(count) : room
  let at = 0
  for (const page of pages) {
    let end = at + page.count
    if (page.firstMs >= span.fromMs && page.lastMs <= span.toMs)
      decodePage(page, squeezer, null, numbers.subarray(at, end))
    else {
      const times = new Float64Array(page.count)
      const values = new Float64Array(page.count)
      decodePage(page, squeezer, times, values)
      const inside = cut({ times, values }, span.fromMs, span.toMs).values
      numbers.set(inside, at)
      end = at + inside.length
    }
    at = page.numbers === page.count ? end : withoutNaN(numbers, at, end)
  }
  return numbers.subarray(0, at)
}

/** Closes up the numbers of a stretch. @returns its new end */
function withoutNaN(numbers: Float64Array, from: number, end: number): number {
  let at = from
  for (let index = from; index < end; index += 1)
    if (!Number.isNaN(numbers[index]!)) numbers[at++] = numbers[index]!
  return at
}

const pagesWithin = (
  chunks: readonly Uint8Array[],
  squeezer: Squeezer,
  { fromMs, toMs }: { readonly fromMs: number; readonly toMs: number },
): Page[] =>
  chunks.flatMap((bytes) =>
    pagesOf(bytes, squeezer.crc32).filter((page) => page.lastMs >= fromMs && page.firstMs <= toMs),
  )

const countIn = (pages: readonly Page[]): number => pages.reduce((total, page) => total + page.count, 0)

/** The part of a curve between two instants, both included, without a copy. */
export function cut({ times, values }: Curve, fromMs: number, toMs: number): Curve {
  const [start, end] = [lowerBound(times, fromMs), lowerBound(times, toMs, true)]
  return start === 0 && end === times.length
    ? { times, values }
    : { times: times.subarray(start, end), values: values.subarray(start, end) }
}

/** The readings of a chunk page by page, so that a long one never lies in memory as a whole. @throws ChunkError */
export function* decodePages(bytes: Uint8Array, squeezer: Squeezer): Generator<Curve> {
  for (const page of pagesOf(bytes, squeezer.crc32)) {
    const curve = { times: new Float64Array(page.count), values: new Float64Array(page.count) }
    decodePage(page, squeezer, curve.times, curve.values)
    yield curve
  }
}

/** @param times `null` when nobody asks for them */
function decodePage(page: Page, squeezer: Squeezer, times: Float64Array | null, values: Float64Array): void {
  try {
    const isSqueezed = (page.layouts & SQUEEZED) !== 0
    const reader = new ByteReader(isSqueezed ? squeezer.unsqueeze(page.body, page.plainSize) : page.body)
    if (times === null) skipTimes(reader, page.layouts & 3, page.count)
    else readTimes(reader, page.layouts & 3, page, times)
    readValues(reader, (page.layouts >> 2) & 7, page.count, values)
    if (times !== null && times[page.count - 1] !== page.lastMs)
      throw new ChunkError('the times of a page do not end at its end')
  } catch (error) {
    throw asChunkError(error)
  }
}

/** The first index whose instant is at or after `atMs`; with `isAfter`, after it. */
export function lowerBound(times: Float64Array, atMs: number, isAfter = false): number {
  let [low, high] = [0, times.length]
  while (low < high) {
    const middle = (low + high) >>> 1
    if (isAfter ? times[middle]! <= atMs : times[middle]! < atMs) low = middle + 1
    else high = middle
  }
  return low
}
