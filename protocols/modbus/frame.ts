import { isBitTable, type RegisterSpan, type RegisterTable } from '#core/sources'

/** MODBUS Application Protocol V1.1b3 §6.1–6.4. */
const FUNCTIONS: Readonly<Record<RegisterTable, number>> = { coil: 1, discrete: 2, holding: 3, input: 4 }

/** What an exception code says (§7). */
const EXCEPTIONS: Readonly<Record<number, string>> = {
  1: 'this function is not offered',
  2: 'no such register',
  3: 'a value that is not allowed',
  4: 'the device failed',
  5: 'it is still at work',
  6: 'the device is busy',
  8: 'its memory is damaged',
  10: 'the gateway has no path to this unit',
  11: 'the unit behind the gateway does not answer',
}
export const exceptionText = (code: number): string =>
  EXCEPTIONS[code] ?? 'a reason that is not in the standard'

/** An answer that is not one of Modbus, or not to what was asked. */
export class FrameError extends Error {
  /** @param isModbus whether it looks like Modbus at all */
  constructor(
    message: string,
    readonly isModbus: boolean,
  ) {
    super(message)
  }
}

/** Exception codes from 1 on; what a device answers instead of values. */
export class ModbusException extends Error {
  constructor(readonly code: number) {
    super(`exception ${code}: ${exceptionText(code)}`)
  }
}

export interface ModbusQuestion extends RegisterSpan {
  readonly transaction: number
  readonly unit: number
}

/** A question with its MBAP header (MODBUS Messaging on TCP/IP V1.0b §3.1.3). */
export function encodeQuestion({ transaction, unit, table, address, count }: ModbusQuestion): Buffer {
  const frame = Buffer.alloc(12)
  frame.writeUInt16BE(transaction, 0)
  frame.writeUInt16BE(0, 2)
  frame.writeUInt16BE(6, 4)
  frame.writeUInt8(unit, 6)
  frame.writeUInt8(FUNCTIONS[table], 7)
  frame.writeUInt16BE(address, 8)
  frame.writeUInt16BE(count, 10)
  return frame
}

const HEADER = 7
/** 253 octets of a PDU and one for the unit (§4.1). */
const LONGEST = 254

/**
 * How long the answer is that begins here, once that can be told.
 * @throws FrameError when it cannot be one
 */
export function frameLength(bytes: Buffer): number | null {
  if (bytes.length >= 4 && bytes.readUInt16BE(2) !== 0)
    throw new FrameError('its protocol identifier is not 0', false)
  if (bytes.length < 6) return null
  const length = bytes.readUInt16BE(4)
  if (length < 3 || length > LONGEST)
    throw new FrameError(`its length is ${length}, not 3 to ${LONGEST}`, false)
  return 6 + length
}

/**
 * The values of an answer to a question.
 * @throws FrameError when it is not one to this question
 * @throws ModbusException when the device refuses
 */
export function decodeAnswer(frame: Buffer, asked: ModbusQuestion): number[] {
  const length = frameLength(frame)
  if (length === null || length !== frame.length) throw new FrameError('it is cut off', true)
  if (frame.readUInt16BE(0) !== asked.transaction)
    throw new FrameError('it answers another question (transaction identifier)', true)
  if (frame[6] !== asked.unit) throw new FrameError(`it comes from unit ${frame[6]}, not ${asked.unit}`, true)
  const code = FUNCTIONS[asked.table]
  if (frame[HEADER] === (code | 0x80)) throw new ModbusException(frame[HEADER + 1]!)
  if (frame[HEADER] !== code) throw new FrameError(`it answers function ${frame[HEADER]}, not ${code}`, true)
  const body = frame.subarray(HEADER + 2)
  const expected = isBitTable(asked.table) ? Math.ceil(asked.count / 8) : asked.count * 2
  if (frame[HEADER + 1] !== expected || body.length !== expected)
    throw new FrameError(`it has ${body.length} octets of values, not ${expected}`, true)
  return isBitTable(asked.table)
    ? Array.from({ length: asked.count }, (_, index) => (body[index >> 3]! >> (index & 7)) & 1)
    : Array.from({ length: asked.count }, (_, index) => body.readUInt16BE(index * 2))
}
