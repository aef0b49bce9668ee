/** One attribute of the SMART data of an ATA drive. Which there are, and what the raw value counts, is its maker's. */
export interface AtaAttribute {
  readonly id: number
  /** It warns of a failure, rather than of age (bit 0 of the flags). */
  readonly isPrefailure: boolean
  /** 1 to 253, the higher the better. */
  readonly value: number
  readonly worst: number
  /** 48 bits. */
  readonly raw: bigint
  /** `null` where there is no threshold; 0 never trips. */
  readonly threshold: number | null
}

/** Sectors of SMART READ DATA and SMART READ THRESHOLDS (ATA/ATAPI-5 §8.41.5 and §8.41.6), 512 octets each. */
export interface AtaSmart {
  readonly attributes: readonly AtaAttribute[]
}

const SIZE = 512
const ATTRIBUTES = 30
const ENTRY = 12
const FIRST = 2

/** @throws RangeError when a sector is cut or its checksum is wrong */
export function decodeAtaSmart(data: Uint8Array, thresholds: Uint8Array | null): AtaSmart {
  checkSector(data, 'data')
  if (thresholds !== null) checkSector(thresholds, 'thresholds')
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength)
  const limits = new Map<number, number>()
  for (let index = 0; thresholds !== null && index < ATTRIBUTES; index += 1) {
    const at = FIRST + index * ENTRY
    if (thresholds[at] !== 0) limits.set(thresholds[at]!, thresholds[at + 1]!)
  }
  const attributes: AtaAttribute[] = []
  for (let index = 0; index < ATTRIBUTES; index += 1) {
    const at = FIRST + index * ENTRY
    const id = view.getUint8(at)
    // A second entry of one attribute is none.
    if (id === 0 || attributes.some((each) => each.id === id)) continue
    attributes.push({
      id,
      isPrefailure: (view.getUint16(at + 1, true) & 1) === 1,
      value: view.getUint8(at + 3),
      worst: view.getUint8(at + 4),
      raw: BigInt(view.getUint32(at + 5, true)) | (BigInt(view.getUint16(at + 9, true)) << 32n),
      threshold: limits.get(id) ?? null,
    })
  }
  return { attributes }
}

/** The last octet makes the sum of all of them a multiple of 256. */
function checkSector(sector: Uint8Array, what: string): void {
  if (sector.length !== SIZE)
    throw new RangeError(`a SMART ${what} sector has ${SIZE} octets, this has ${sector.length}`)
  if (sector.every((octet) => octet === 0)) throw new RangeError(`the SMART ${what} sector is empty`)
  if (sector.reduce((sum, octet) => sum + octet, 0) % 256 !== 0)
    throw new RangeError(`the checksum of the SMART ${what} sector is wrong`)
}

/** Attributes at or below their threshold. */
export const tripped = ({ attributes }: AtaSmart): AtaAttribute[] =>
  attributes.filter(
    ({ isPrefailure, value, threshold }) =>
      isPrefailure && threshold !== null && threshold > 0 && value <= threshold,
  )
