import { createServer, type Server, type Socket } from 'node:net'
import { isBitTable, type RegisterBlock, type RegisterSpan, type RegisterTable } from '#core/sources'
import type { FaultBoard } from '../model/faults.ts'
import type { SimCooling } from '../model/cooling.ts'
import { readRegisters } from './registers.ts'

const TABLES: Readonly<Record<number, RegisterTable>> = { 1: 'coil', 2: 'discrete', 3: 'holding', 4: 'input' }
const NO_FUNCTION = 1
const NO_ADDRESS = 2

type Read = (span: RegisterSpan, atMs: number) => RegisterBlock | null

/** The Modbus card of a cooling unit. */
export const startCoolingUnit = ({
  cooling,
  ...rest
}: {
  readonly cooling: SimCooling
  readonly host?: string
  readonly port: number
  readonly now?: () => number
}): Promise<Server> =>
  startModbus({ ...rest, faults: cooling.faults, read: (span, atMs) => readRegisters(cooling, span, atMs) })

/** A Modbus TCP server with a unit's registers (functions 1 to 4). Faults: `silent`, `refuse`. */
export async function startModbus(options: {
  readonly faults: FaultBoard
  readonly read: Read
  readonly host?: string
  readonly port: number
  readonly now?: () => number
}): Promise<Server> {
  const { faults, read, host = '127.0.0.1', port, now = Date.now } = options
  const server = createServer((socket) => {
    let bytes = Buffer.alloc(0)
    socket.on('error', () => socket.destroy())
    socket.on('data', (data: Buffer) => {
      bytes = Buffer.concat([bytes, data])
      while (bytes.length >= 12) {
        const question = bytes.subarray(0, 12)
        bytes = bytes.subarray(12)
        if (!faults.has('silent')) answer(socket, question, { faults, read, atMs: now() })
      }
    })
  })
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, host, resolve)
  })
  return server
}

function answer(
  socket: Socket,
  question: Buffer,
  { faults, read, atMs }: { readonly faults: FaultBoard; readonly read: Read; readonly atMs: number },
): void {
  const code = question[7]!
  const table = TABLES[code]
  const refuse = (why: number): void => void socket.write(frame(question, Buffer.from([code | 0x80, why])))
  if (table === undefined || faults.has('refuse')) return refuse(NO_FUNCTION)
  const [address, count] = [question.readUInt16BE(8), question.readUInt16BE(10)]
  const block = read({ table, address, count }, atMs)
  if (block === null) return refuse(NO_ADDRESS)
  socket.write(frame(question, Buffer.concat([Buffer.from([code, 0]), octetsOf(table, block.values)])))
}

function octetsOf(table: RegisterTable, values: readonly number[]): Buffer {
  if (!isBitTable(table)) {
    const octets = Buffer.alloc(values.length * 2)
    values.forEach((value, index) => octets.writeUInt16BE(value, index * 2))
    return octets
  }
  const octets = Buffer.alloc(Math.ceil(values.length / 8))
  values.forEach((value, index) => (octets[index >> 3]! |= value << (index & 7)))
  return octets
}

function frame(question: Buffer, pdu: Buffer): Buffer {
  if (pdu.length > 2) pdu[1] = pdu.length - 2
  const header = Buffer.from(question.subarray(0, 7))
  header.writeUInt16BE(pdu.length + 1, 4)
  return Buffer.concat([header, pdu])
}
