import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { MEASURES, PART_KINDS, type MeasureKey, type PartKind } from '../catalogue/index.ts'
import { lineOfRow, nextLine, rowOfLine } from './registerRows.ts'
import { BYTE_ORDERS, isBitTable, REGISTER_TABLES, REGISTER_WORDS, type RegisterLine } from './registers.ts'

const keys = <Key extends string>(of: Readonly<Record<Key, unknown>>): Key[] => Object.keys(of) as Key[]
const anyLine = fc
  .record({
    table: fc.constantFrom(...REGISTER_TABLES),
    address: fc.nat(65_535),
    type: fc.constantFrom(...keys(REGISTER_WORDS)),
    order: fc.constantFrom(...BYTE_ORDERS),
    bit: fc.nat(15),
    part: fc.constantFrom('', 'Phase 1', 'Return air', 'L2'),
    partKind: fc.constantFrom<PartKind>(...keys(PART_KINDS)),
    measure: fc.constantFrom<MeasureKey>(...keys(MEASURES)),
    scale: fc.constantFrom(1, 0.1, 0.01, 1000, -1),
    offset: fc.constantFrom(0, -40, 273.15),
    none: fc.constantFrom(null, 0, -32_768, 65_535),
    states: fc.constantFrom<RegisterLine['states']>(null, { '0': 0, '1': 2 }, { '-1': 3 }),
  })
  .map((line): RegisterLine => {
    // What a line does not use stands at its usual value.
    const type = isBitTable(line.table) ? 'bit' : line.type
    return {
      ...line,
      type,
      order: isBitTable(line.table) || REGISTER_WORDS[type] === 1 ? 'ABCD' : line.order,
      bit: type === 'bit' && !isBitTable(line.table) ? line.bit : 0,
      partKind: line.part === '' ? 'sensor' : line.partKind,
    }
  })

test('any line comes back as it was from its row', () => {
  fc.assert(
    fc.property(anyLine, (line) => {
      expect(lineOfRow(rowOfLine(line))).toEqual(line)
    }),
  )
})

test('a row as somebody types it: names for keys, hexadecimal registers, a decimal comma, usual values left out', () => {
  expect(
    lineOfRow({
      table: 'Input',
      register: '0x1A',
      type: 'S16',
      part: 'Supply air',
      measure: 'temperature',
      times: '0,1',
    }),
  ).toMatchObject({
    table: 'input',
    address: 26,
    type: 's16',
    scale: 0.1,
    measure: 'hw.temperature',
    partKind: 'sensor',
  })
  expect(lineOfRow({ table: 'coil', register: '3', type: 'u16', measure: 'hw.leak' })).toMatchObject({
    type: 'bit',
  })
})

describe('what cannot be used is said', () => {
  const good = { table: 'holding', register: '1', measure: 'hw.temperature' }
  test.each([
    [{ ...good, table: 'holdings' }, '“table” is “holdings”; it is one of holding, input, coil, discrete.'],
    [{ ...good, register: '40001.5' }, '“register” is “40001.5”; it is a whole number from 0 to 65535.'],
    [{ ...good, register: '0x1ffff' }, '“register” is “0x1ffff”; it is a whole number from 0 to 65535.'],
    [{ ...good, type: 'i16' }, /^“type” is “i16”; it is one of bit, u16, s16/],
    [{ ...good, measure: 'warmth' }, /^“measure” is “warmth”, which is not known here/],
    [{ ...good, part: 'x', part_is: 'rack' }, /^“part_is” is “rack”, which is no kind of part/],
    [{ ...good, times: '0' }, /^“times” is 0/],
    [{ ...good, plus: 'ten' }, '“plus” is “ten”, which is no number.'],
    [{ ...good, states: '0:1' }, /^“states” holds “0:1”/],
    [{}, /^“table” is “”/],
  ])('%j', (row, words) => {
    expect(lineOfRow(row)).toEqual(words instanceof RegExp ? expect.stringMatching(words) : words)
  })
})

test('the line behind a line begins where it ends, and counts its part on', () => {
  const line = lineOfRow({
    table: 'input',
    register: '10',
    type: 'f32',
    part: 'Phase 09',
    measure: 'hw.power',
  })
  if (typeof line === 'string') throw new Error(line)
  expect(nextLine(line)).toEqual({ ...line, address: 12, part: 'Phase 10' })
  const bit = { ...line, type: 'bit', bit: 15, part: 'Door' } as const
  expect(nextLine(bit)).toEqual({ ...bit, bit: 0, address: 11 })
  expect(nextLine({ ...bit, bit: 3 })).toEqual({ ...bit, bit: 4 })
  expect(nextLine({ ...line, table: 'coil', type: 'bit', bit: 0 })).toMatchObject({ address: 11 })
})
