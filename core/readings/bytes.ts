/** Grows as it is written. All numbers are little-endian. */
export class ByteWriter {
  #bytes = new Uint8Array(256)
  #view = new DataView(this.#bytes.buffer)
  size = 0

  /** Room for `count` more bytes. @returns the bytes to write into, from `size` on. */
  reserve(count: number): Uint8Array {
    if (this.size + count > this.#bytes.length) {
      const grown = new Uint8Array(Math.max(this.#bytes.length * 2, this.size + count))
      grown.set(this.#bytes)
      this.#bytes = grown
      this.#view = new DataView(grown.buffer)
    }
    return this.#bytes
  }

  byte(value: number): void {
    this.reserve(1)[this.size++] = value
  }

  /** A non-negative integer below 2^53 in groups of seven bits (as in protobuf's wire format). */
  varint(value: number): void {
    let rest = value
    while (rest >= 128) {
      this.byte((rest % 128) | 128)
      rest = Math.floor(rest / 128)
    }
    this.byte(rest)
  }

  /** An integer with |value| ≤ 2^51. */
  signed(value: number): void {
    this.varint(zigzag(value))
  }

  float(value: number): void {
    this.reserve(8)
    this.#view.setFloat64(this.size, value, true)
    this.size += 8
  }

  uint32(value: number): void {
    this.reserve(4)
    this.#view.setUint32(this.size, value, true)
    this.size += 4
  }

  append(bytes: Uint8Array): void {
    this.reserve(bytes.length).set(bytes, this.size)
    this.size += bytes.length
  }

  /** What was written, as its own copy. */
  bytes(): Uint8Array {
    return this.#bytes.slice(0, this.size)
  }

  /** What was written from an offset on, without a copy; valid until the next write. */
  view(from: number): Uint8Array {
    return this.#bytes.subarray(from, this.size)
  }
}

/** Reads what a `ByteWriter` wrote. Every method throws RangeError when the bytes end too soon. */
export class ByteReader {
  readonly #view: DataView

  constructor(
    readonly bytes: Uint8Array,
    public at = 0,
  ) {
    this.#view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }

  byte(): number {
    const value = this.bytes[this.at]
    if (value === undefined) throw new RangeError('the bytes end too soon')
    this.at += 1
    return value
  }

  varint(): number {
    let value = 0
    let factor = 1
    for (;;) {
      const byte = this.byte()
      value += (byte & 127) * factor
      if (byte < 128) break
      factor *= 128
    }
    if (!Number.isSafeInteger(value)) throw new RangeError('a number is larger than 2^53')
    return value
  }

  signed(): number {
    return unzigzag(this.varint())
  }

  float(): number {
    const value = this.#view.getFloat64(this.at, true)
    this.at += 8
    return value
  }

  uint32(): number {
    const value = this.#view.getUint32(this.at, true)
    this.at += 4
    return value
  }

  /** The next bytes, without a copy. */
  take(count: number): Uint8Array {
    if (this.at + count > this.bytes.length) throw new RangeError('the bytes end too soon')
    this.at += count
    return this.bytes.subarray(this.at - count, this.at)
  }
}

/** Small numbers of either sign as small numbers: 0, -1, 1, -2 … become 0, 1, 2, 3 … */
export const zigzag = (value: number): number => (value < 0 ? -2 * value - 1 : 2 * value)
export const unzigzag = (value: number): number => (value % 2 === 0 ? value / 2 : -(value + 1) / 2)

/** Four tables, for four bytes at a step (“slicing by four”). */
const CRC_TABLES = crcTables()

function crcTables(): Uint32Array[] {
  const first = Uint32Array.from({ length: 256 }, (_, byte) => {
    let value = byte
    for (let bit = 0; bit < 8; bit += 1) value = value & 1 ? (value >>> 1) ^ 0xedb8_8320 : value >>> 1
    return value
  })
  const tables = [first]
  for (let step = 1; step < 4; step += 1) {
    const before = tables[step - 1]!
    tables.push(before.map((value) => first[value & 255]! ^ (value >>> 8)))
  }
  return tables
}

/** CRC-32 as in ISO 3309 and ITU-T V.42 (polynomial 0x04C11DB7, reflected). */
export function crc32(bytes: Uint8Array): number {
  const [one, two, three, four] = CRC_TABLES as [Uint32Array, Uint32Array, Uint32Array, Uint32Array]
  let crc = -1
  let at = 0
  for (const end = bytes.length - 3; at < end; at += 4) {
    crc ^= bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24)
    crc = four[crc & 255]! ^ three[(crc >>> 8) & 255]! ^ two[(crc >>> 16) & 255]! ^ one[crc >>> 24]!
  }
  for (; at < bytes.length; at += 1) crc = one[(crc ^ bytes[at]!) & 255]! ^ (crc >>> 8)
  return (crc ^ -1) >>> 0
}
