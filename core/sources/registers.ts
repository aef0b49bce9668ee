import { type GearKind, type MeasureKey, type PartKind } from '../catalogue/index.ts'
import type { Findings, Identity, PartFinding, ReadingFinding } from '../gear/index.ts'

/** The four tables of Modbus (MODBUS Application Protocol V1.1b3 §4.3). */
export const REGISTER_TABLES = ['holding', 'input', 'coil', 'discrete'] as const
export type RegisterTable = (typeof REGISTER_TABLES)[number]
export const isBitTable = (table: RegisterTable): boolean => table === 'coil' || table === 'discrete'

/** How many registers of 16 bits each type takes. */
export const REGISTER_WORDS = {
  bit: 1,
  u16: 1,
  s16: 1,
  u32: 2,
  s32: 2,
  f32: 2,
  u64: 4,
  s64: 4,
  f64: 4,
} as const
export type RegisterType = keyof typeof REGISTER_WORDS

/**
 * How the octets of a value lie in its registers, A the most significant. Modbus itself says only that the high octet
 * of a register comes first (§4.2); devices differ in the order of registers, and some in that of octets.
 */
export const BYTE_ORDERS = ['ABCD', 'CDAB', 'BADC', 'DCBA'] as const
export type ByteOrder = (typeof BYTE_ORDERS)[number]

/** One value of a device: where it lies and what it means. */
export interface RegisterLine {
  readonly table: RegisterTable
  /** As it goes over the wire, counted from 0. */
  readonly address: number
  readonly type: RegisterType
  readonly order: ByteOrder
  /** Of `bit` in a register: which, 0 the least significant. */
  readonly bit: number
  /** Empty: the gear itself. */
  readonly part: string
  readonly partKind: PartKind
  readonly measure: MeasureKey
  /** value = raw × scale + offset, in the unit of the measure. */
  readonly scale: number
  readonly offset: number
  /** A raw value that stands for none. */
  readonly none: number | null
  /** Of a state: what each raw value is here; what is not named has no value. */
  readonly states: Readonly<Record<string, number>> | null
}

/** What a kind of device keeps in its registers. */
export interface RegisterMap {
  readonly kind: GearKind
  readonly maker: string
  readonly model: string
  /** Where its serial number stands as text, two characters a register. */
  readonly serial: {
    readonly table: 'holding' | 'input'
    readonly address: number
    readonly words: number
  } | null
  readonly lines: readonly RegisterLine[]
}

/** Registers, or bits as 0 and 1, one after the other from an address on. */
export interface RegisterBlock {
  readonly table: RegisterTable
  readonly address: number
  readonly values: readonly number[]
}

/** A stretch to read. */
export interface RegisterSpan {
  readonly table: RegisterTable
  readonly address: number
  readonly count: number
}

/** §6.1–6.4: at most 125 registers or 2,000 bits a question. */
const MOST = { registers: 125, bits: 2000 } as const
const GAP = { registers: 8, bits: 64 } as const

const wordsOf = (line: RegisterLine): number => (isBitTable(line.table) ? 1 : REGISTER_WORDS[line.type])

/**
 * What has to be read for a map, in as few questions as may be.
 * @param mayGap whether to read over registers that nobody asked for, which some devices refuse
 */
export function spansOf(map: RegisterMap, mayGap: boolean): RegisterSpan[] {
  const wanted = [
    ...map.lines.map((line) => ({ table: line.table, address: line.address, count: wordsOf(line) })),
    ...(map.serial === null
      ? []
      : [{ table: map.serial.table, address: map.serial.address, count: map.serial.words }]),
  ]
  return REGISTER_TABLES.flatMap((table) => {
    const [most, gap] = isBitTable(table) ? [MOST.bits, GAP.bits] : [MOST.registers, GAP.registers]
    const spans: { table: RegisterTable; address: number; count: number }[] = []
    for (const next of wanted
      .filter((each) => each.table === table)
      .sort((a, b) => a.address - b.address || a.count - b.count)) {
      const last = spans.at(-1)
      const end = next.address + next.count
      const isNear = last !== undefined && next.address <= last.address + last.count + (mayGap ? gap : 0)
      if (isNear && end - last.address <= most) last.count = Math.max(last.count, end - last.address)
      else spans.push({ ...next })
    }
    return spans
  })
}

/** Raw values from an address on, or `null` where they were not read. */
export function rawAt(
  blocks: readonly RegisterBlock[],
  { table, address, count }: RegisterSpan,
): number[] | null {
  const block = blocks.find(
    (each) =>
      each.table === table && each.address <= address && address + count <= each.address + each.values.length,
  )
  return block === undefined
    ? null
    : block.values.slice(address - block.address, address - block.address + count)
}

/** The number that registers hold. 64-bit whole numbers beyond 2^53 are rounded to float64. */
export function decodeRaw(words: readonly number[], type: RegisterType, order: ByteOrder, bit = 0): number {
  if (type === 'bit') return (words[0]! >> bit) & 1
  const ordered = order === 'CDAB' || order === 'DCBA' ? [...words].reverse() : words
  const view = new DataView(new ArrayBuffer(words.length * 2))
  const isSwapped = order === 'BADC' || order === 'DCBA'
  ordered.forEach((word, index) => view.setUint16(index * 2, word, isSwapped))
  switch (type) {
    case 'u16':
      return view.getUint16(0)
    case 's16':
      return view.getInt16(0)
    case 'u32':
      return view.getUint32(0)
    case 's32':
      return view.getInt32(0)
    case 'f32':
      return view.getFloat32(0)
    case 'u64':
      return Number(view.getBigUint64(0))
    case 's64':
      return Number(view.getBigInt64(0))
    case 'f64':
      return view.getFloat64(0)
    default:
      return type satisfies never
  }
}

/** Raw and meant value of one line; `null` where nothing was read, or where the device has no value. */
export function valueOf(
  line: RegisterLine,
  blocks: readonly RegisterBlock[],
): { readonly words: readonly number[] | null; readonly value: number | null } {
  const words = rawAt(blocks, { table: line.table, address: line.address, count: wordsOf(line) })
  if (words === null) return { words, value: null }
  const raw = isBitTable(line.table) ? words[0]! : decodeRaw(words, line.type, line.order, line.bit)
  if (line.none === raw || !Number.isFinite(raw)) return { words, value: null }
  if (line.states !== null)
    return { words, value: Object.hasOwn(line.states, String(raw)) ? line.states[String(raw)]! : null }
  // A factor of a tenth or a hundredth is a division, which rounds as people expect.
  const steps = Math.round(1 / line.scale)
  const scaled = line.scale < 1 && Math.abs(steps * line.scale - 1) < 1e-12 ? raw / steps : raw * line.scale
  return { words, value: scaled + line.offset }
}

/** What a device's registers say by a map. `name`: of the gear. */
export function mapRegisters(blocks: readonly RegisterBlock[], map: RegisterMap, name: string): Findings {
  const parts = new Map<string, PartFinding>()
  const readings = new Map<string, ReadingFinding>()
  for (const line of map.lines) {
    const key = line.part === '' ? null : `${line.partKind} ${line.part}`
    if (key !== null) parts.set(key, { key, kind: line.partKind, name: line.part, facts: {} })
    const reading = { gear: name, part: key, measure: line.measure, value: valueOf(line, blocks).value }
    const place = JSON.stringify([key, line.measure])
    if (!readings.has(place)) readings.set(place, reading)
  }
  const gear = gearOfMap(map, name, serialOf(blocks, map), [...parts.values()])
  return { gear: [gear], links: [], readings: [...readings.values()] }
}

function gearOfMap(
  { kind, maker, model }: RegisterMap,
  name: string,
  serial: string | null,
  parts: readonly PartFinding[],
): Findings['gear'][number] {
  const facts = Object.entries({ maker, model, serial: serial ?? '' }).filter(([, value]) => value !== '')
  const identities: Identity[] = serial === null ? [] : [{ kind: 'serial', value: serial }]
  return { key: name, kind, name, identities, facts: Object.fromEntries(facts), parts }
}

function serialOf(blocks: readonly RegisterBlock[], { serial }: RegisterMap): string | null {
  if (serial === null) return null
  const words = rawAt(blocks, { table: serial.table, address: serial.address, count: serial.words })
  const text = (words ?? [])
    .flatMap((word) => [word >> 8, word & 0xff])
    .filter((octet) => octet >= 0x20 && octet < 0x7f)
    .map((octet) => String.fromCharCode(octet))
    .join('')
    .trim()
  return text === '' ? null : text
}
