import {
  GEAR_KINDS,
  isMeasureKey,
  isPartKind,
  type MeasureKey,
  measureKeys,
  measureOf,
  PART_KINDS,
  type PartKind,
} from '../catalogue/index.ts'
import {
  BYTE_ORDERS,
  type ByteOrder,
  isBitTable,
  REGISTER_TABLES,
  REGISTER_WORDS,
  type RegisterLine,
  type RegisterTable,
  type RegisterType,
} from './registers.ts'

/** The columns of a register map as a sheet; `table`, `register` and `measure` are needed. */
export const REGISTER_COLUMNS = [
  'table',
  'register',
  'type',
  'order',
  'bit',
  'part',
  'part_is',
  'measure',
  'times',
  'plus',
  'none',
  'states',
] as const
export type RegisterRow = Readonly<Partial<Record<(typeof REGISTER_COLUMNS)[number], string>>>

/** Bounds what a pasted sheet may bring. */
export const MOST_REGISTER_LINES = 500

export const rowOfLine = (line: RegisterLine): Required<RegisterRow> => ({
  table: line.table,
  register: String(line.address),
  type: isBitTable(line.table) ? '' : line.type,
  order: isBitTable(line.table) || REGISTER_WORDS[line.type] === 1 ? '' : line.order,
  bit: line.type === 'bit' && !isBitTable(line.table) ? String(line.bit) : '',
  part: line.part,
  part_is: line.part === '' ? '' : line.partKind,
  measure: line.measure,
  times: line.scale === 1 ? '' : String(line.scale),
  plus: line.offset === 0 ? '' : String(line.offset),
  none: line.none === null ? '' : String(line.none),
  states: Object.entries(line.states ?? {})
    .map(([raw, value]) => `${raw}=${value}`)
    .join(' '),
})

/**
 * A line of a map from a row of a sheet. Measures and kinds of parts may stand by their key or their name here.
 * @returns a sentence when something in it cannot be used
 */
export function lineOfRow(row: RegisterRow): RegisterLine | string {
  try {
    return readRow(row)
  } catch (error) {
    if (error instanceof RowError) return error.message
    throw error
  }
}

class RowError extends Error {}

function readRow(row: RegisterRow): RegisterLine {
  const cell = (name: keyof RegisterRow): string => (row[name] ?? '').trim()
  const table = oneOf('table', cell('table').toLowerCase(), REGISTER_TABLES)
  const address = whole('register', cell('register'), 65_535)
  const type = isBitTable(table) ? 'bit' : typeOf(cell('type').toLowerCase())
  const part = cell('part')
  if (part.length > 100) throw new RowError('The name of a part has at most 100 characters.')
  const scale = numberIn('times', cell('times'), 1)
  if (scale === 0) throw new RowError('“times” is 0, and every value with it; leave it empty for 1.')
  return {
    table,
    address,
    type,
    order: orderOf(cell('order').toUpperCase()),
    bit: cell('bit') === '' ? 0 : whole('bit', cell('bit'), 15),
    part,
    partKind: partKindIn(cell('part_is')),
    measure: measureIn(cell('measure')),
    scale,
    offset: numberIn('plus', cell('plus'), 0),
    none: cell('none') === '' ? null : numberIn('none', cell('none'), 0),
    states: statesIn(cell('states')),
  }
}

const typeOf = (given: string): RegisterType =>
  given === '' ? 'u16' : oneOf('type', given, Object.keys(REGISTER_WORDS) as RegisterType[])
const orderOf = (given: string): ByteOrder => (given === '' ? 'ABCD' : oneOf('order', given, BYTE_ORDERS))

function oneOf<Value extends RegisterTable | RegisterType | ByteOrder>(
  column: string,
  given: string,
  values: readonly Value[],
): Value {
  const found = values.find((value) => value === given)
  if (found === undefined) throw new RowError(`“${column}” is “${given}”; it is one of ${values.join(', ')}.`)
  return found
}

/** Decimal, or hexadecimal as manuals have it: `0x1A`. */
function whole(column: string, given: string, most: number): number {
  const value = /^(\d{1,6}|0x[0-9a-f]{1,4})$/i.test(given) ? Number(given) : NaN
  if (Number.isNaN(value) || value > most)
    throw new RowError(`“${column}” is “${given}”; it is a whole number from 0 to ${most}.`)
  return value
}

function numberIn(column: string, given: string, otherwise: number): number {
  if (given === '') return otherwise
  const value = Number(given.replace(',', '.'))
  if (!Number.isFinite(value)) throw new RowError(`“${column}” is “${given}”, which is no number.`)
  return value
}

function measureIn(given: string): MeasureKey {
  if (isMeasureKey(given)) return given
  const named = measureKeys().filter((key) => measureOf(key).label.toLowerCase() === given.toLowerCase())
  if (named.length === 1) return named[0]!
  throw new RowError(
    named.length === 0
      ? `“measure” is “${given}”, which is not known here; for example hw.temperature, or Temperature.`
      : `“measure” is “${given}”, which several are called: ${named.join(', ')}. Take one of these.`,
  )
}

function partKindIn(given: string): PartKind {
  if (given === '') return 'sensor'
  if (isPartKind(given)) return given
  const named = Object.entries(PART_KINDS).find(
    ([, { label }]) => label.toLowerCase() === given.toLowerCase(),
  )
  if (named !== undefined) return named[0] as PartKind
  const isGear = Object.hasOwn(GEAR_KINDS, given) ? ' That is a kind of gear, and parts are meant.' : ''
  throw new RowError(`“part_is” is “${given}”, which is no kind of part; for example sensor.${isGear}`)
}

function statesIn(given: string): RegisterLine['states'] {
  if (given === '') return null
  const pairs = given.split(/[\s,;]+/).map((pair) => {
    const match = /^(-?\d+)=(-?\d+(?:\.\d+)?)$/.exec(pair)
    if (match === null)
      throw new RowError(`“states” holds “${pair}”; it is the raw value, =, and what it is here, as 0=0 1=2.`)
    return [match[1]!, Number(match[2])] as const
  })
  return Object.fromEntries(pairs)
}

/** The next line of the same form: what lies behind it in the device. */
export function nextLine(line: RegisterLine): RegisterLine {
  const isBit = line.type === 'bit' && !isBitTable(line.table)
  if (isBit && line.bit < 15) return { ...line, part: numberedUp(line.part), bit: line.bit + 1 }
  const step = isBitTable(line.table) ? 1 : REGISTER_WORDS[line.type]
  return {
    ...line,
    part: numberedUp(line.part),
    bit: isBit ? 0 : line.bit,
    address: Math.min(65_535, line.address + step),
  }
}

/** “Phase 1” is followed by “Phase 2”; what ends in no number stays, to be written over. */
const numberedUp = (name: string): string =>
  name.replace(/\d{1,6}$/, (digits) => String(Number(digits) + 1).padStart(digits.length, '0'))
