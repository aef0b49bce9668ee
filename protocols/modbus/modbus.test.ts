import { describe, expect, test } from 'vitest'
import { GEAR_KINDS } from '#core/catalogue'
import { decodeAnswer, encodeQuestion, FrameError, ModbusException } from './frame.ts'
import { SHIPPED_MAPS } from './shipped.ts'

const asked = { transaction: 0x1501, unit: 0xff, table: 'input' as const, address: 8, count: 1 }

describe('frames', () => {
  // MODBUS Application Protocol V1.1b3 §6.3 (holding 107 to 109), §6.4 (input 8) and §6.1 (coils 19 to 37), each with
  // the MBAP header of Messaging on TCP/IP V1.0b §3.1.3 in front.
  test('a question', () => {
    expect(encodeQuestion({ ...asked, table: 'holding', address: 107, count: 3 }).toString('hex')).toBe(
      '150100000006ff03006b0003',
    )
  })
  test('registers', () => {
    expect(decodeAnswer(Buffer.from('150100000005ff0402000a', 'hex'), asked)).toEqual([10])
    expect(
      decodeAnswer(Buffer.from('150100000009ff0306022b00000064', 'hex'), {
        ...asked,
        table: 'holding',
        count: 3,
      }),
    ).toEqual([555, 0, 100])
  })
  test('bits, the first in the lowest bit of the first octet', () => {
    const bits = decodeAnswer(Buffer.from('150100000006ff0103cd6b05', 'hex'), {
      ...asked,
      table: 'coil',
      count: 19,
    })
    expect(bits.join('')).toBe('1011001111010110101')
  })
  test('an exception', () => {
    expect(() => decodeAnswer(Buffer.from('150100000003ff8402', 'hex'), asked)).toThrow(
      new ModbusException(2),
    )
  })
  test.each([
    ['another question', '150200000005ff0402000a'],
    ['another unit', '150100000005010402000a'],
    ['another function', '150100000005ff0302000a'],
    ['too few values', '150100000003ff0400'],
    ['too many values', '150100000007ff0404000a000b'],
    ['cut off', '150100000005ff040200'],
    ['a length of nothing', '150100000000'],
    ['another protocol', '485454502f312e31'],
  ])('%s is refused', (_, hex) => {
    expect(() => decodeAnswer(Buffer.from(hex, 'hex'), asked)).toThrow(FrameError)
  })
})

test('the maps that come along are whole', () => {
  expect(SHIPPED_MAPS.map(({ map }) => map.kind).sort()).toEqual(['cooling', 'generator', 'meter', 'probe'])
  for (const { map } of SHIPPED_MAPS) {
    expect(map.kind in GEAR_KINDS).toBe(true)
    const places = map.lines.map(({ part, measure }) => `${part} ${measure}`)
    expect(new Set(places).size).toBe(places.length)
  }
})
