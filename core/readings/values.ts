import { joinHalves, packBlocks, packedSize, unpackBlocks } from './bits.ts'
import { ByteReader, type ByteWriter, unzigzag, zigzag } from './bytes.ts'
import { greatestDivisor } from './divisor.ts'
import { powerOfTen, type Scaled } from './scale.ts'

/** How the values of a page are laid down. */
export const VALUES = { constant: 0, packed: 1, planes: 2, xor: 3 } as const

const WIDEST = 2 ** 49

/** Scaled values as what is left after their common divisor and their order of differences are taken out. */
export interface Residuals {
  readonly exponent: number
  readonly order: number
  readonly divisor: number
  readonly lowest: number
  /** The first `order` whole numbers, above `lowest` and divided. */
  readonly heads: readonly number[]
  /** Non-negative, below 2^53. */
  readonly rest: Float64Array
}

/**
 * Takes differences of order 0, 1 or 2, whichever leaves the fewest bits.
 * @returns `null` when the values lie too far apart for exact differences (2^49)
 */
export function residualsOf({ exponent, wholes }: Scaled): Residuals | null {
  let lowest = Infinity
  let highest = -Infinity
  for (const whole of wholes) {
    if (whole < lowest) lowest = whole
    if (whole > highest) highest = whole
  }
  if (highest - lowest > WIDEST) return null
  const above = wholes.map((whole) => whole - lowest)
  const divisor = greatestDivisor(above)
  if (divisor > 1) for (let index = 0; index < above.length; index += 1) above[index]! /= divisor
  const first = differences(above)
  const second = differences(first)
  const candidates = [above, first.map(zigzag), second.map(zigzag)]
  const costs = candidates.map(bitsIn)
  const order = costs.indexOf(Math.min(...costs))
  const heads = [[], [above[0] ?? 0], [above[0] ?? 0, first[0] ?? 0]][order]!
  return { exponent, order, divisor, lowest, heads, rest: candidates[order]! }
}

const differences = (numbers: Float64Array): Float64Array =>
  Float64Array.from(
    { length: Math.max(0, numbers.length - 1) },
    (_, index) => numbers[index + 1]! - numbers[index]!,
  )

/** About the information in them: what a byte-wise entropy coder makes of small numbers. */
function bitsIn(numbers: Float64Array): number {
  let bits = 0
  for (const number of numbers) bits += Math.log2(1 + number)
  return bits
}

export function writeResiduals(found: Residuals, layout: number, writer: ByteWriter): void {
  const { exponent, order, divisor, lowest, heads, rest } = found
  writer.byte(exponent * 3 + order)
  writer.signed(lowest)
  writer.varint(divisor)
  heads.forEach((head) => writer.signed(head))
  if (layout === VALUES.packed) {
    writer.size = packBlocks(rest, writer.reserve(packedSize(rest)), writer.size)
  } else writePlanes(rest, writer)
}

/** Byte by byte: first the lowest byte of every number, then the next. An entropy coder makes the most of it. */
function writePlanes(numbers: Float64Array, writer: ByteWriter): void {
  let rest = numbers
  let planes = 0
  const at = writer.size
  writer.byte(0)
  while (rest.some((number) => number > 0)) {
    const bytes = writer.reserve(rest.length)
    for (let index = 0; index < rest.length; index += 1) bytes[writer.size + index] = rest[index]! % 256
    writer.size += rest.length
    rest = rest.map((number) => Math.floor(number / 256))
    planes += 1
  }
  writer.reserve(0)[at] = planes
}

/** Room that the numbers of one page after the other are unpacked into: new room each time costs more than unpacking. */
const ROOM = new Uint32Array(8192)
const scratch = (count: number): Uint32Array =>
  count <= ROOM.length ? ROOM.subarray(0, count) : new Uint32Array(count)

/** The numbers that `writePlanes` laid down; as 32-bit ones where they fit, which is four times faster to go on with. */
function readPlanes(reader: ByteReader, count: number): Uint32Array | Float64Array {
  const planes = reader.byte()
  if (planes > 7) throw new RangeError('a page has more planes than a number has bytes')
  const low = scratch(count)
  if (planes > 0) low.set(reader.take(count))
  else low.fill(0)
  for (let plane = 1; plane < Math.min(planes, 4); plane += 1) {
    const bytes = reader.take(count)
    const shift = 8 * plane
    for (let index = 0; index < count; index += 1) low[index]! |= bytes[index]! << shift
  }
  if (planes <= 4) return low
  const wide = Float64Array.from(low)
  for (let plane = 4; plane < planes; plane += 1) {
    const bytes = reader.take(count)
    const factor = 256 ** plane
    for (let index = 0; index < count; index += 1) wide[index]! += bytes[index]! * factor
  }
  return wide
}

/** Values of any kind, each XORed with the one before it, in eight planes of bytes. */
export function writeXor(values: Float64Array, writer: ByteWriter): void {
  const count = values.length
  const words = new BigUint64Array(values.buffer, values.byteOffset, count)
  const bytes = writer.reserve(8 * count)
  let before = 0n
  for (let index = 0; index < count; index += 1) {
    let word = words[index]! ^ before
    before = words[index]!
    for (let plane = 0; plane < 8; plane += 1) {
      bytes[writer.size + plane * count + index] = Number(word & 255n)
      word >>= 8n
    }
  }
  writer.size += 8 * count
}

function readXor(reader: ByteReader, count: number, values: Float64Array): void {
  const planes = Array.from({ length: 8 }, () => reader.take(count))
  const halves = new Uint32Array(2)
  const value = new Float64Array(halves.buffer)
  for (let index = 0; index < count; index += 1) {
    halves[0]! ^= word(planes, 0, index)
    halves[1]! ^= word(planes, 4, index)
    values[index] = value[0]!
  }
}

const word = (planes: readonly Uint8Array[], from: number, index: number): number =>
  (planes[from]![index]! |
    (planes[from + 1]![index]! << 8) |
    (planes[from + 2]![index]! << 16) |
    (planes[from + 3]![index]! << 24)) >>>
  0

/** Reads the values of a page. @throws RangeError on bytes that hold no such values */
export function readValues(reader: ByteReader, layout: number, count: number, values: Float64Array): void {
  switch (layout) {
    case VALUES.constant:
      values.fill(reader.float(), 0, count)
      return
    case VALUES.packed:
    case VALUES.planes:
      readResiduals(reader, layout, count, values)
      return
    case VALUES.xor:
      readXor(reader, count, values)
      return
    default:
      throw new RangeError(`a page has values of layout ${layout}, which is not known here`)
  }
}

function readResiduals(reader: ByteReader, layout: number, count: number, values: Float64Array): void {
  const head = reader.byte()
  const order = head % 3
  const exponent = (head - order) / 3
  if (exponent > 9) throw new RangeError('a page has values of more than nine decimals')
  const lowest = reader.signed()
  const divisor = reader.varint()
  const heads = Array.from({ length: order }, () => reader.signed())
  const left = Math.max(0, count - order)
  let rest: Uint32Array | Float64Array
  if (layout === VALUES.packed) {
    const low = scratch(left)
    const { at, high } = unpackBlocks(reader.bytes, reader.at, low)
    rest = high === null ? low : joinHalves(low, high)
    reader.at = at
  } else rest = readPlanes(reader, left)
  const scale = { lowest, divisor, power: powerOfTen(exponent) }
  if (order === 0) scaleLevels(rest, scale, values)
  else if (rest instanceof Uint32Array) integrateSmall(rest, heads, scale, values)
  else integrateWide(rest, heads, scale, values)
}

interface Scale {
  readonly lowest: number
  readonly divisor: number
  readonly power: number
}

function scaleLevels(rest: Uint32Array | Float64Array, scale: Scale, values: Float64Array): void {
  const { lowest, divisor, power } = scale
  for (let index = 0; index < rest.length; index += 1)
    values[index] = (lowest + rest[index]! * divisor) / power
}

/** Differences of order 1 or 2, zig-zag, back to values. With whole 32-bit differences, which most are. */
function integrateSmall(
  rest: Uint32Array,
  heads: readonly number[],
  scale: Scale,
  values: Float64Array,
): void {
  const { lowest, divisor, power } = scale
  const order = heads.length
  let level = heads[0]!
  let slope = heads[1] ?? 0
  if (rest.length + order > 0) values[0] = (lowest + level * divisor) / power
  if (order === 2) {
    level += slope
    values[1] = (lowest + level * divisor) / power
    for (let index = 0; index < rest.length; index += 1) {
      const folded = rest[index]!
      slope += (folded >>> 1) ^ -(folded & 1)
      level += slope
      values[index + 2] = (lowest + level * divisor) / power
    }
    return
  }
  for (let index = 0; index < rest.length; index += 1) {
    const folded = rest[index]!
    level += (folded >>> 1) ^ -(folded & 1)
    values[index + 1] = (lowest + level * divisor) / power
  }
}

/** The same for wider ones. */
function integrateWide(
  rest: Float64Array,
  heads: readonly number[],
  scale: Scale,
  values: Float64Array,
): void {
  const { lowest, divisor, power } = scale
  let level = heads[0]!
  let slope = heads[1] ?? 0
  values[0] = (lowest + level * divisor) / power
  if (heads.length === 2) {
    level += slope
    values[1] = (lowest + level * divisor) / power
  }
  for (let index = 0; index < rest.length; index += 1) {
    const step = unzigzag(rest[index]!)
    if (heads.length === 2) slope += step
    level += heads.length === 2 ? slope : step
    values[index + heads.length] = (lowest + level * divisor) / power
  }
}
