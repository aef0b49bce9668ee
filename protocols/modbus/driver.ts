import { z } from 'zod'
import { GEAR_KINDS, isMeasureKey, PART_KINDS } from '#core/catalogue'
import {
  BYTE_ORDERS,
  mapRegisters,
  REGISTER_TABLES,
  REGISTER_WORDS,
  type RegisterBlock,
  type RegisterMap,
  type RegisterSpan,
  spansOf,
} from '#core/sources'
import type { Driver, Target } from '#protocols/driver'
import { addressOf, type Endpoint } from '#protocols/reach'
import { ModbusException } from './frame.ts'
import { ModbusFailure, ModbusSession, refusalOf } from './session.ts'

const keysOf = <Key extends string>(record: Readonly<Record<Key, unknown>>): [Key, ...Key[]] =>
  Object.keys(record) as [Key, ...Key[]]
const register = z
  .number()
  .int('The number of a register is whole')
  .min(0, 'The number of a register is at least 0')
  .max(65_535, 'The number of a register is at most 65535')
const factor = z.number().refine(Number.isFinite, 'A factor or an offset is a number')

export const registerLine = z.object({
  table: z.enum(REGISTER_TABLES),
  address: register,
  type: z.enum(['bit', ...keysOf(REGISTER_WORDS)]),
  order: z.enum(BYTE_ORDERS).default('ABCD'),
  bit: z.number().int().min(0).max(15, 'A bit of a register is 0 to 15').default(0),
  part: z.string().trim().max(100).default(''),
  partKind: z.enum(keysOf(PART_KINDS)).default('register'),
  measure: z.string().refine(isMeasureKey, 'This measure is not known here'),
  scale: factor.refine((scale) => scale !== 0, 'A factor is not 0').default(1),
  offset: factor.default(0),
  none: z.number().nullable().default(null),
  states: z
    .record(z.string().regex(/^-?\d+$/), z.number())
    .nullable()
    .default(null),
})

/** What a kind of device keeps in its registers, as it is kept. */
export const registerMap = z.object({
  kind: z.enum(keysOf(GEAR_KINDS)),
  maker: z.string().trim().max(100).default(''),
  model: z.string().trim().max(100).default(''),
  serial: z
    .object({
      table: z.enum(['holding', 'input']),
      address: register,
      words: z.number().int().min(1).max(32),
    })
    .nullable()
    .default(null),
  lines: z.array(registerLine).max(500, 'A map has at most 500 lines'),
})

const modbusTarget = z.object({
  address: z.string().regex(/^[^\s/]+$/, 'The address is a host, with :port if it is not 502'),
  settings: z.object({
    unit: z.number().int().min(0).max(255, 'A unit is 0 to 255').default(1),
    /** What the device is called; otherwise its address. */
    name: z.string().trim().max(64).default(''),
    map: registerMap.nullable().default(null),
    /** A stretch to look at beside the map, while one is written. */
    look: z
      .object({ table: z.enum(REGISTER_TABLES), address: register, count: z.number().int().min(1).max(125) })
      .nullable()
      .default(null),
  }),
})

const endpointOf = (address: string): Endpoint => {
  const url = new URL(`modbus://${address}`)
  return { host: url.hostname.replaceAll(/[[\]]/g, ''), port: url.port === '' ? 502 : Number(url.port) }
}

/** Registers of a device by a map that is kept as data (MODBUS Application Protocol V1.1b3, Messaging on TCP/IP V1.0b). */
export const modbus: Driver = {
  protocol: 'modbus',
  reach(target: Target) {
    const trust = { authorityPem: null, fingerprint: null }
    return { ...endpointOf(modbusTarget.parse(target).address), transport: 'tcp', trust }
  },
  async collect({ target, timeoutMs, trace, told }) {
    const { address, settings } = modbusTarget.parse(target)
    const endpoint = endpointOf(address)
    const where = addressOf(endpoint)
    let session: ModbusSession | null = null
    try {
      session = await ModbusSession.open(endpoint, timeoutMs, trace)
      const map = settings.map as RegisterMap | null
      const blocks = map === null ? [] : await readMap(session, settings.unit, map)
      if (told !== undefined) {
        const look = settings.look === null ? null : await lookAt(session, settings.unit, settings.look)
        if (typeof look === 'string') told({ kind: 'registers', blocks, refused: look })
        else told({ kind: 'registers', blocks: look === null ? blocks : [...blocks, look] })
      }
      if (map === null || map.lines.length === 0)
        return { kind: 'found', found: { gear: [], links: [], readings: [] } }
      return { kind: 'found', found: mapRegisters(blocks, map, settings.name === '' ? where : settings.name) }
    } catch (error) {
      if (error instanceof ModbusFailure) return { kind: 'failed', failure: error.failure }
      if (error instanceof Refused)
        return { kind: 'failed', failure: refusalOf(error.exception, where, error.span) }
      throw error
    } finally {
      session?.close()
    }
  },
}

class Refused extends Error {
  constructor(
    readonly exception: ModbusException,
    readonly span: RegisterSpan,
  ) {
    super(exception.message)
  }
}

const refused =
  (span: RegisterSpan) =>
  (error: unknown): never => {
    throw error instanceof ModbusException ? new Refused(error, span) : error
  }

/** Not this table, not these registers, not so many (MODBUS Application Protocol V1.1b3 §7). */
const NOT_THERE = new Set([1, 2, 3])

/**
 * A device need not have what somebody wants to look at: that is said, and says nothing against the rest.
 * @returns what is there, or why nothing is
 */
async function lookAt(
  session: ModbusSession,
  unit: number,
  span: RegisterSpan,
): Promise<RegisterBlock | string> {
  try {
    return await session.read(unit, span)
  } catch (error) {
    if (!(error instanceof ModbusException)) throw error
    if (!NOT_THERE.has(error.code)) throw new Refused(error, span)
    return `${span.table} ${span.address} to ${span.address + span.count - 1}: ${error.message}`
  }
}

/** Some devices refuse a question that goes over a register that they do not have: then each stretch by itself. */
async function readMap(session: ModbusSession, unit: number, map: RegisterMap): Promise<RegisterBlock[]> {
  const readAll = async (spans: readonly RegisterSpan[]): Promise<RegisterBlock[]> => {
    const blocks: RegisterBlock[] = []
    for (const span of spans) blocks.push(await session.read(unit, span).catch(refused(span)))
    return blocks
  }
  try {
    return await readAll(spansOf(map, true))
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    return readAll(spansOf(map, false))
  }
}
