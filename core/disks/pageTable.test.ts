import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { measureOf, type MeasureKey } from '../catalogue/index.ts'
import { attributeWords, type DrivePage, pageTable, readDrivePage } from './index.ts'

const plain = (text: string | null | undefined): string | undefined => text?.replaceAll('\u202f', ' ')

/** A page laid out by hand from the table of the standard: offset, octets in hex. */
function octets(entries: readonly (readonly [at: number, hex: string])[]): Uint8Array {
  const bytes = new Uint8Array(512)
  for (const [at, hex] of entries) bytes.set(Buffer.from(hex, 'hex'), at)
  return bytes
}
function summed(bytes: Uint8Array): Uint8Array {
  bytes[511] = (256 - (bytes.subarray(0, 511).reduce((sum, octet) => sum + octet, 0) % 256)) % 256
  return bytes
}

describe('every field of the NVMe page, by its octets in the table of the specification', () => {
  // Each field has another number, so that none can be read in the place of another.
  const page: DrivePage = {
    kind: 'nvme-health',
    data: octets([
      [0, '08'], // read-only
      [1, '4c01'], // 332 K
      [3, '09'],
      [4, '0a'],
      [5, '68'], // 104 % used
      [6, '05'], // an endurance group: spare, reliability
      [32, '01'],
      [48, 'ffffffffffffffffffffffffffffffff'],
      [64, '03'],
      [80, '04'],
      [96, '05'],
      [112, '06'],
      [128, '07'],
      [144, '08'],
      [160, '09'],
      [176, '0a'],
      [192, '0b000000'],
      [196, '0c000000'],
      [200, '2e01'], // 302 K
      [214, '2f01'],
      [216, '0d000000'],
      [220, '0e000000'],
      [224, '0f000000'],
      [228, '10000000'],
    ]),
  }
  test('each line of its table', () => {
    // (2^128 - 1) * 512,000, by an independent calculator of any precision.
    const most = '174 224 571 863 520 493 293 247 799 005 065 324 264 960 000'
    const rows = pageTable(page).map(({ name, words }) => [name, plain(words)])
    expect(rows).toEqual([
      [
        'Critical warnings',
        'it is read-only now; the spare of an endurance group is below its threshold; an endurance group is no longer reliable',
      ],
      ['Temperature', '59 °C'],
      ['Spare left', '9 %'],
      ['Threshold of the spare', '10 %'],
      ['Endurance used', '104 %'],
      ['Read', '512 000 B'],
      ['Written', `${most} B`],
      ['Read commands', '3'],
      ['Write commands', '4'],
      ['Busy with commands', '5 min'],
      ['Power cycles', '6'],
      ['Powered on', '7 h'],
      ['Unsafe shutdowns', '8'],
      ['Media errors', '9'],
      ['Entries in its error log', '10'],
      ['Above its warning temperature', '11 min'],
      ['Above its critical temperature', '12 min'],
      ['Sensor 1', '29 °C'],
      ['Sensor 8', '30 °C'],
      ['Slowed down lightly for its temperature', '13 times, 15 s in all'],
      ['Slowed down heavily for its temperature', '14 times, 16 s in all'],
    ])
  })
  test('used beyond the whole is told as it is, beside no life left', () => {
    const of = (measure: MeasureKey) =>
      readDrivePage(page).readings.find((each) => each.measure === measure)?.value
    expect(of('hw.drive.used')).toBe(1.04)
    expect(of('hw.drive.life_left')).toBe(0)
    expect(of('hw.drive.read_only')).toBe(1)
    expect(of('hw.drive.spare_margin')).toBe(-0.01)
    expect(of('hw.drive.unsafe_shutdowns')).toBe(8)
  })
})

describe('attributes of ATA drives', () => {
  test('packed raw values are taken apart; what nobody knows stays raw', () => {
    expect(plain(attributeWords(194, 0x0030_0015_002bn))).toBe('43 °C, 21 to 48 so far')
    expect(plain(attributeWords(194, 0x002bn))).toBe('43 °C')
    expect(plain(attributeWords(9, 0x0001_0000_cd08n))).toBe('52 488 h')
    expect(plain(attributeWords(187, 0x0002_0001_0003n))).toBe('3; above it 131 073')
    expect(plain(attributeWords(241, 1_000_000n))).toBe('1 000 000 sectors, 512 000 000 B')
    expect(attributeWords(250, 5n)).toBeNull()
  })
  test('the table has flags, thresholds and the raw value; an unknown one is not guessed', () => {
    const data = summed(
      octets([
        [2, `05${'3300'}${'0a'}${'09'}${'1a0000000000'}`],
        [14, `fa${'3200'}${'64'}${'63'}${'010203040506'}`],
      ]),
    )
    const thresholds = summed(octets([[2, '050a']]))
    const [reallocated, unknown] = pageTable({ kind: 'ata-smart', data, thresholds })
    expect(reallocated).toMatchObject({
      name: 'reallocated sectors',
      words: '26',
      raw: '00000000001a',
      measure: 'hw.drive.attribute.5',
      isTrouble: true,
      ata: { id: 5, warnsOf: 'failure', value: 10, worst: 9, threshold: 10 },
    })
    expect(unknown).toMatchObject({
      name: 'known to its maker alone',
      words: null,
      raw: '060504030201',
      why: null,
      ata: { id: 250, warnsOf: 'age', threshold: null },
    })
    expect(measureOf(reallocated!.measure!).label).toBe('Attribute 5, reallocated sectors')
  })
  test('any sector with a right checksum: one reading of a measure at most, and each is known', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 512, maxLength: 512 }), (bytes) => {
        const data = summed(bytes)
        fc.pre(data.some((octet) => octet !== 0))
        const page: DrivePage = { kind: 'ata-smart', data, thresholds: null }
        const measures = readDrivePage(page).readings.map(({ measure }) => measure)
        expect(new Set(measures).size).toBe(measures.length)
        expect(pageTable(page).length).toBeLessThanOrEqual(30)
        for (const measure of measures) expect(measureOf(measure).group).toBeTruthy()
      }),
    )
  })
})
