import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import {
  BYTE_ORDERS,
  type ByteOrder,
  decodeRaw,
  mapRegisters,
  type RegisterLine,
  type RegisterMap,
  type RegisterType,
  spansOf,
  valueOf,
} from './registers.ts'

const line = (rest: Partial<RegisterLine>): RegisterLine => ({
  table: 'holding',
  address: 0,
  type: 'u16',
  order: 'ABCD',
  bit: 0,
  part: '',
  partKind: 'register',
  measure: 'hw.temperature',
  scale: 1,
  offset: 0,
  none: null,
  states: null,
  ...rest,
})
const map = (lines: readonly RegisterLine[], rest: Partial<RegisterMap> = {}): RegisterMap => ({
  kind: 'cooling',
  maker: '',
  model: '',
  serial: null,
  lines,
  ...rest,
})

describe('values in registers', () => {
  // π as binary32 is 40490fdb and as binary64 400921fb54442d18 (IEEE 754-2008); -2 is all ones but the last bit.
  test.each<[RegisterType, ByteOrder, number[], number]>([
    ['u16', 'ABCD', [0xfffe], 65_534],
    ['s16', 'ABCD', [0xfffe], -2],
    ['s16', 'BADC', [0xfeff], -2],
    ['u32', 'ABCD', [0x0001, 0x0000], 65_536],
    ['u32', 'CDAB', [0x0000, 0x0001], 65_536],
    ['s32', 'ABCD', [0xffff, 0xfffe], -2],
    ['s32', 'DCBA', [0xfeff, 0xffff], -2],
    ['f32', 'ABCD', [0x4049, 0x0fdb], Math.fround(Math.PI)],
    ['f32', 'CDAB', [0x0fdb, 0x4049], Math.fround(Math.PI)],
    ['f32', 'BADC', [0x4940, 0xdb0f], Math.fround(Math.PI)],
    ['f32', 'DCBA', [0xdb0f, 0x4940], Math.fround(Math.PI)],
    ['f64', 'ABCD', [0x4009, 0x21fb, 0x5444, 0x2d18], Math.PI],
    ['u64', 'CDAB', [0x0002, 0x0001, 0x0000, 0x0000], 65_538],
    ['s64', 'ABCD', [0xffff, 0xffff, 0xffff, 0xfffe], -2],
  ])('%s %s %j is %d', (type, order, words, value) => {
    expect(decodeRaw(words, type, order)).toBe(value)
  })
  test('each bit of a register', () => {
    expect([0, 1, 2, 3].map((bit) => decodeRaw([0b1010], 'bit', 'ABCD', bit))).toEqual([0, 1, 0, 1])
  })
  test('every float64 comes back from its registers in each order', () => {
    fc.assert(
      fc.property(fc.double({ noNaN: true }), fc.constantFrom(...BYTE_ORDERS), (value, order) => {
        const bytes = Buffer.alloc(8)
        bytes.writeDoubleBE(value)
        if (order === 'DCBA' || order === 'BADC') bytes.swap16()
        const words = [0, 2, 4, 6].map((at) => bytes.readUInt16BE(at))
        if (order === 'CDAB' || order === 'DCBA') words.reverse()
        expect(Object.is(decodeRaw(words, 'f64', order), value)).toBe(true)
      }),
    )
  })
  test('scale, offset, no value, states', () => {
    const blocks = [{ table: 'holding' as const, address: 10, values: [215, 0x8000, 2, 9] }]
    const at = (address: number, rest: Partial<RegisterLine> = {}): number | null =>
      valueOf(line({ address, ...rest }), blocks).value
    expect(at(10, { scale: 0.1 })).toBe(21.5)
    expect(at(10, { scale: 0.1, offset: -40 })).toBe(-18.5)
    expect(at(11, { type: 's16', none: -32_768 })).toBeNull()
    expect(at(12, { states: { '0': 0, '2': 1 } })).toBe(1)
    expect(at(13, { states: { '0': 0, '2': 1 } })).toBeNull()
    expect(at(14)).toBeNull()
  })
})

describe('what is read for a map', () => {
  const spans = (addresses: readonly number[], mayGap = true) =>
    spansOf(map(addresses.map((address) => line({ address }))), mayGap).map(({ address, count }) => [
      address,
      count,
    ])
  test('near ones together, with gaps only where they are allowed', () => {
    expect(spans([0, 1, 5, 40])).toEqual([
      [0, 6],
      [40, 1],
    ])
    expect(spans([0, 1, 5, 40], false)).toEqual([
      [0, 2],
      [5, 1],
      [40, 1],
    ])
  })
  test('at most 125 registers or 2,000 bits a question (§6.1–6.4), and everything once asked for is covered', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(400), fc.constantFrom<RegisterType>('u16', 'f32', 'u64')), {
          maxLength: 80,
        }),
        fc.boolean(),
        (wanted, mayGap) => {
          const lines = wanted.map(([address, type]) => line({ address, type }))
          const all = spansOf(map(lines), mayGap)
          for (const { count } of all) expect(count).toBeLessThanOrEqual(125)
          const blocks = all.map((span) => ({ ...span, values: Array.from({ length: span.count }, () => 1) }))
          for (const each of lines) expect(valueOf(each, blocks).words).not.toBeNull()
        },
      ),
    )
  })
})

test('a gear with its serial number, parts and readings', () => {
  const serial = [...Buffer.from('BH20-0031 ').swap16().swap16()]
  const words = [0, 2, 4, 6, 8].map((at) => (serial[at]! << 8) | serial[at + 1]!)
  const findings = mapRegisters(
    [
      { table: 'holding', address: 900, values: words },
      { table: 'discrete', address: 0, values: [1] },
    ],
    map(
      [
        line({
          table: 'discrete',
          type: 'bit',
          part: 'Tray',
          partKind: 'leak',
          measure: 'hw.leak',
          states: { '1': 2 },
        }),
      ],
      { maker: 'Brumehall', serial: { table: 'holding', address: 900, words: 5 } },
    ),
    'brume-1',
  )
  expect(findings.gear[0]).toMatchObject({
    kind: 'cooling',
    identities: [{ kind: 'serial', value: 'BH20-0031' }],
    facts: { maker: 'Brumehall', serial: 'BH20-0031' },
    parts: [{ key: 'leak Tray' }],
  })
  expect(findings.readings).toEqual([{ gear: 'brume-1', part: 'leak Tray', measure: 'hw.leak', value: 2 }])
})
