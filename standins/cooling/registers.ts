import type { RegisterBlock, RegisterSpan } from '#core/sources'
import type { SimCooling } from '../model/cooling.ts'

const SERIAL_AT = 900
const signed = (value: number): number => Math.round(value) & 0xffff

/** The registers of the unit, as its maker's list has them; `null` where it has none. */
export function readRegisters(cooling: SimCooling, span: RegisterSpan, atMs: number): RegisterBlock | null {
  const now = cooling.at(atMs)
  return blockOf(span, {
    input: {
      0: signed(now.supply * 10),
      1: signed(now.return * 10),
      2: Math.round(now.humidity * 1000),
      3: signed(now.waterIn * 10),
      4: signed(now.waterOut * 10),
      5: Math.round(now.fans[0]! * 100),
      6: Math.round(now.fans[1]! * 100),
      7: 0,
      8: Math.round(now.watts / 10),
      9: 0,
      10: Math.round(now.airflow / 10),
      11: 0,
    },
    holding: { 100: 1, 101: now.health, ...serialWords(cooling.spec.serial) },
    discrete: { 0: now.isWet ? 1 : 0 },
    coil: {},
  })
}

type Tables = Readonly<Record<RegisterSpan['table'], Readonly<Record<number, number>>>>

/** Registers one after the other; `null` where one of them is not there. */
export function blockOf({ table, address, count }: RegisterSpan, tables: Tables): RegisterBlock | null {
  const values = Array.from({ length: count }, (_, index) => tables[table][address + index])
  return values.every((value) => value !== undefined) ? { table, address, values } : null
}

export const serialWords = (serial: string): Record<number, number> =>
  Object.fromEntries(
    Array.from({ length: 8 }, (_, index) => [
      SERIAL_AT + index,
      ((serial.charCodeAt(index * 2) || 0x20) << 8) | (serial.charCodeAt(index * 2 + 1) || 0x20),
    ]),
  )
