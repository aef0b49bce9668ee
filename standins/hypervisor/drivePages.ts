import type { DriveState } from '../model/drive.ts'

const SIZE = 512
const KELVIN = 273
/** A data unit is a thousand of 512 octets, rounded up. */
const DATA_UNIT = 512_000

/**
 * What a drive says of its health: NVM Express Base Specification 2.0, “SMART / Health Information” (log identifier 02h).
 */
export function nvmeHealthPage(drive: DriveState): Buffer {
  const page = Buffer.alloc(SIZE)
  const wide = (at: number, value: number): void => {
    page.writeBigUInt64LE(BigInt(value), at)
  }
  page[0] = drive.fails ? 0b101 : 0
  page.writeUInt16LE(drive.celsius + KELVIN, 1)
  page[3] = drive.spare
  page[4] = 10
  page[5] = Math.min(255, Math.round((1 - drive.lifeLeft) * 100))
  wide(32, Math.ceil(drive.readBytes / DATA_UNIT))
  wide(48, Math.ceil(drive.writtenBytes / DATA_UNIT))
  wide(64, drive.readCommands)
  wide(80, drive.writeCommands)
  wide(96, drive.busyMinutes)
  wide(112, drive.powerCycles)
  wide(128, drive.powerOnHours)
  wide(144, drive.unsafeShutdowns)
  wide(160, drive.fails ? 3 : 0)
  wide(176, drive.powerCycles * 2)
  page.writeUInt16LE(drive.celsius + 2 + KELVIN, 200)
  page.writeUInt16LE(drive.celsius - 1 + KELVIN, 202)
  return page
}

/** One attribute: its number, whether it warns of a failure, its value, its raw value, and its threshold. */
type Attribute = readonly [id: number, isPrefailure: boolean, value: number, raw: bigint, threshold: number]

const SECTOR = 512
const ATTRIBUTE = 12

/**
 * What a drive says to SMART READ DATA and SMART READ THRESHOLDS (ATA/ATAPI-5 §8.41.5 and §8.41.6): 512 octets each, with
 * the checksum in the last.
 */
export function ataSmartSectors(
  drive: DriveState,
  counts: { readonly reallocated: number; readonly cable: number },
): { data: Buffer; thresholds: Buffer } {
  const { celsius } = drive
  const attributes: readonly Attribute[] = [
    [5, true, drive.fails ? 8 : 100, BigInt(counts.reallocated), 10],
    [9, false, 97, BigInt(drive.powerOnHours), 0],
    [12, false, 99, BigInt(drive.powerCycles), 0],
    [174, false, 100, BigInt(drive.unsafeShutdowns), 0],
    [187, false, 100, 0n, 0],
    [194, false, 100 - celsius, BigInt(celsius) | (21n << 16n) | (52n << 32n), 0],
    [197, false, 100, drive.fails ? 12n : 0n, 0],
    [198, false, 100, 0n, 0],
    [199, false, 100, BigInt(counts.cable), 0],
    [241, false, 99, BigInt(Math.floor(drive.writtenBytes / SECTOR)), 0],
    [242, false, 99, BigInt(Math.floor(drive.readBytes / SECTOR)), 0],
    // Its maker's own; nobody else knows what it counts.
    [245, false, 100, 0x1f_0040_0003n, 0],
  ]
  const [data, thresholds] = [Buffer.alloc(SIZE), Buffer.alloc(SIZE)]
  // The revision of the structure.
  data.writeUInt16LE(16, 0)
  thresholds.writeUInt16LE(16, 0)
  attributes.forEach(([id, isPrefailure, value, raw, threshold], index) => {
    const at = 2 + index * ATTRIBUTE
    data[at] = id
    data.writeUInt16LE(isPrefailure ? 0b11_0011 : 0b11_0010, at + 1)
    data[at + 3] = value
    data[at + 4] = value
    data.writeUIntLE(Number(raw), at + 5, 6)
    thresholds[at] = id
    thresholds[at + 1] = threshold
  })
  for (const sector of [data, thresholds])
    sector[SIZE - 1] = (SIZE - (sector.reduce((sum, octet) => sum + octet, 0) % 256)) % 256
  return { data, thresholds }
}
