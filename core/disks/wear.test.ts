import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { decodeAtaSmart, decodeNvmeHealth, type DrivePage, readDrivePage, tripped } from './index.ts'

/** A page laid out by hand from the table of the specification: offset, octets in hex. */
function page(entries: readonly (readonly [at: number, hex: string])[]): Uint8Array {
  const bytes = new Uint8Array(512)
  for (const [at, hex] of entries) bytes.set(Buffer.from(hex, 'hex'), at)
  return bytes
}
/** With the checksum in its last octet. */
function sector(entries: Parameters<typeof page>[0]): Uint8Array {
  const bytes = page(entries)
  bytes[511] = (256 - (bytes.reduce((sum, octet) => sum + octet, 0) % 256)) % 256
  return bytes
}
const value = (drive: DrivePage, measure: string) =>
  readDrivePage(drive).readings.find((reading) => reading.measure === measure)?.value

describe('the NVMe health page', () => {
  const worn = page([
    [0, '05'], // spare below threshold, reliability degraded
    [1, '3b01'], // 315 K
    [3, '0a'],
    [4, '14'],
    [5, '67'], // 103 % used
    [48, '00e1f505000000000000000000000000'], // 100,000,000 units of 512,000 octets
    [112, '2a'],
    [128, '10270000'], // 10,000 h
    [160, '03'],
    [200, '3c01'],
    [204, '2f01'],
  ])
  test('fields where the table has them', () => {
    expect(decodeNvmeHealth(worn)).toMatchObject({
      warnings: ['the spare is below its threshold', 'it is no longer reliable'],
      celsius: 42,
      spare: 0.1,
      spareThreshold: 0.2,
      used: 1.03,
      bytesWritten: 51_200_000_000_000n,
      powerCycles: 42n,
      powerOnHours: 10_000n,
      mediaErrors: 3n,
      sensors: [
        { number: 1, celsius: 43 },
        { number: 3, celsius: 30 },
      ],
    })
  })
  test('as measures: no life left is 0, not less', () => {
    const drive = { kind: 'nvme-health', data: worn } as const
    expect(value(drive, 'hw.drive.life_left')).toBe(0)
    expect(value(drive, 'hw.status')).toBe(2)
    expect(value(drive, 'hw.drive.predicted_failure')).toBe(1)
    expect(value(drive, 'hw.drive.written')).toBe(51.2e12)
    expect(value({ ...drive, data: page([[3, '64']]) }, 'hw.temperature')).toBeNull()
  })
  test('all 128 bits of a count', () => {
    expect(decodeNvmeHealth(page([[128, '00000000000000000100000000000000']])).powerOnHours).toBe(2n ** 64n)
  })
})

describe('the ATA sectors', () => {
  // Each entry: id, flags, value, worst, raw of six octets.
  const data = sector([
    [2, '05' + '3300' + '03' + '03' + '1a0000000000'],
    [14, '09' + '3200' + '64' + '64' + '08cd00000000'],
    [26, 'c2' + '2200' + '20' + '3c' + '2b0015003000'],
    [38, 'c5' + '3200' + '64' + '64' + '080000000000'],
  ])
  const limits = sector([
    [2, '050a'],
    [14, '0900'],
    [26, 'c200'],
  ])
  test('attributes with their thresholds; only one that warns of a failure trips', () => {
    const smart = decodeAtaSmart(data, limits)
    expect(smart.attributes.map(({ id, value, threshold }) => [id, value, threshold])).toEqual([
      [5, 3, 10],
      [9, 100, 0],
      [194, 32, 0],
      [197, 100, null],
    ])
    expect(tripped(smart).map(({ id }) => id)).toEqual([5])
    expect(smart.attributes[0]).toMatchObject({ isPrefailure: true, worst: 3, raw: 26n })
  })
  test('as measures', () => {
    const drive = { kind: 'ata-smart', data, thresholds: limits } as const
    expect(value(drive, 'hw.drive.reallocated')).toBe(26)
    expect(value(drive, 'hw.drive.pending')).toBe(8)
    expect(value(drive, 'hw.drive.power_on')).toBe(52_488)
    expect(value(drive, 'hw.temperature')).toBe(43)
    expect(value(drive, 'hw.status')).toBe(2)
    expect(value({ ...drive, thresholds: null }, 'hw.status')).toBe(0)
  })
  test('a wrong checksum, a cut sector, an empty one', () => {
    const wrong = Uint8Array.from(data)
    wrong[100]! ^= 1
    expect(() => decodeAtaSmart(wrong, null)).toThrow(/checksum of the SMART data/)
    expect(() => decodeAtaSmart(data.subarray(0, 511), null)).toThrow(/512 octets, this has 511/)
    expect(() => decodeAtaSmart(data, new Uint8Array(512))).toThrow(/thresholds sector is empty/)
  })
})

test('any octets: readings that are numbers, or a word why not (10,000 runs)', () => {
  const octets = fc.oneof(
    fc.uint8Array({ minLength: 512, maxLength: 512 }),
    fc.uint8Array({ maxLength: 600 }),
    fc.uint8Array({ minLength: 512, maxLength: 512 }).map((bytes) => {
      bytes[511] = 0
      bytes[511] = (256 - (bytes.reduce((sum, octet) => sum + octet, 0) % 256)) % 256
      return bytes
    }),
  )
  fc.assert(
    fc.property(octets, fc.option(octets), fc.boolean(), (data, thresholds, isNvme) => {
      try {
        const drive: DrivePage = isNvme
          ? { kind: 'nvme-health', data }
          : { kind: 'ata-smart', data, thresholds }
        for (const reading of readDrivePage(drive).readings)
          expect(reading.value === null || Number.isFinite(reading.value)).toBe(true)
      } catch (error) {
        expect(error).toBeInstanceOf(RangeError)
      }
    }),
    { numRuns: 10_000 },
  )
}, 120_000)
