/** Values a block; one width serves a whole block, so a block of width w takes 4 × w bytes. */
export const BLOCK = 32

const HIGH = 4_294_967_296

/** How many bits a non-negative integer below 2^53 needs. */
export const widthOf = (value: number): number =>
  value < HIGH ? 32 - Math.clz32(value) : 64 - Math.clz32(value / HIGH)

/** Bytes that `packBlocks` takes for these values. */
export function packedSize(values: Float64Array): number {
  let size = 0
  for (let start = 0; start < values.length; start += BLOCK) size += 1 + 4 * widthOf(most(values, start))
  return size
}

function most(values: Float64Array, start: number): number {
  const end = Math.min(start + BLOCK, values.length)
  let found = 0
  for (let index = start; index < end; index += 1) if (values[index]! > found) found = values[index]!
  return found
}

/**
 * Non-negative integers below 2^53, in blocks of 32: one byte of width, then that many bits a value, least significant
 * bit first. A width above 32 is laid down as a plane of 32 bits and a plane of the rest. The last block is filled up
 * with zeros.
 */
export function packBlocks(values: Float64Array, bytes: Uint8Array, at: number): number {
  const low = new Uint32Array(BLOCK)
  const high = new Uint32Array(BLOCK)
  let to = at
  for (let start = 0; start < values.length; start += BLOCK) {
    const width = widthOf(most(values, start))
    bytes[to++] = width
    const count = Math.min(BLOCK, values.length - start)
    for (let index = 0; index < BLOCK; index += 1) {
      const value = index < count ? values[start + index]! : 0
      low[index] = value % HIGH
      high[index] = Math.floor(value / HIGH)
    }
    to = packPlane(low, Math.min(width, 32), bytes, to)
    if (width > 32) to = packPlane(high, width - 32, bytes, to)
  }
  return to
}

function packPlane(plane: Uint32Array, width: number, bytes: Uint8Array, at: number): number {
  let word = 0
  let filled = 0
  let to = at
  for (let index = 0; index < BLOCK; index += 1) {
    const value = plane[index]!
    // Bits beyond bit 31 fall off a shift; what does not fit goes into the next word.
    word = filled === 0 ? value : word | (value << filled)
    filled += width
    if (filled >= 32) {
      bytes[to] = word
      bytes[to + 1] = word >>> 8
      bytes[to + 2] = word >>> 16
      bytes[to + 3] = word >>> 24
      to += 4
      filled -= 32
      word = filled === 0 ? 0 : value >>> (width - filled)
    }
  }
  return to
}

/**
 * Reads `low.length` values that `packBlocks` laid down: their lower 32 bits into `low`.
 * @returns where the next byte is, and the bits above those 32 where any value has some
 * @throws RangeError when the bytes end too soon or hold no width
 */
export function unpackBlocks(
  bytes: Uint8Array,
  at: number,
  low: Uint32Array,
): { at: number; high: Uint32Array | null } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const plane = new Uint32Array(BLOCK)
  const count = low.length
  let from = at
  let high: Uint32Array | null = null
  for (let start = 0; start < count; start += BLOCK) {
    const width = blockWidth(bytes, from++)
    const end = Math.min(BLOCK, count - start)
    if (width === 0) {
      low.fill(0, start, start + end)
      continue
    }
    if (end === BLOCK) unpackPlane(view, from, Math.min(width, 32), low, start)
    else {
      unpackPlane(view, from, Math.min(width, 32), plane, 0)
      low.set(plane.subarray(0, end), start)
    }
    from += 4 * Math.min(width, 32)
    if (width <= 32) continue
    unpackPlane(view, from, width - 32, plane, 0)
    from += 4 * (width - 32)
    high ??= new Uint32Array(count)
    for (let index = 0; index < end; index += 1) high[start + index] = plane[index]!
  }
  return { at: from, high }
}

/** Where `count` packed values end. @throws RangeError when they end too soon */
export function skipBlocks(bytes: Uint8Array, at: number, count: number): number {
  let from = at
  for (let start = 0; start < count; start += BLOCK) from += 1 + 4 * blockWidth(bytes, from)
  return from
}

/** The width of the block that begins at `at`, all of which must be there. */
function blockWidth(bytes: Uint8Array, at: number): number {
  const width = bytes[at]
  if (width === undefined || width > 53 || at + 1 + 4 * width > bytes.length)
    throw new RangeError('packed values end too soon')
  return width
}

/** Both halves together: whole numbers below 2^53. */
export const joinHalves = (low: Uint32Array, high: Uint32Array): Float64Array =>
  Float64Array.from(low, (value, index) => high[index]! * HIGH + value)

function unpackPlane(view: DataView, at: number, width: number, plane: Uint32Array, start: number): void {
  if (width === 32) {
    for (let index = 0; index < BLOCK; index += 1) plane[start + index] = view.getUint32(at + 4 * index, true)
    return
  }
  const mask = 2 ** width - 1
  let word = view.getUint32(at, true)
  let from = at + 4
  let left = 32
  for (let index = 0; index < BLOCK; index += 1) {
    if (left >= width) {
      plane[start + index] = word & mask
      word >>>= width
      left -= width
      // A shift by 32 is a shift by 0: a word that is used up is emptied by hand.
      if (left === 0) word = 0
      continue
    }
    const next = view.getUint32(from, true)
    from += 4
    plane[start + index] = (left === 0 ? next : word | (next << left)) & mask
    const taken = width - left
    word = next >>> taken
    left = 32 - taken
  }
}
