import type { Socket } from 'node:net'
import {
  type Exchange,
  type Failure,
  type RegisterBlock,
  type RegisterSpan,
  whatHappened,
} from '#core/sources'
import { addressOf, type Endpoint, errorCode, errorWords, openTcp, printable } from '#protocols/reach'
import {
  decodeAnswer,
  encodeQuestion,
  exceptionText,
  FrameError,
  frameLength,
  ModbusException,
} from './frame.ts'

/** A failure on its way up; the driver turns it back into an `Outcome`. */
export class ModbusFailure extends Error {
  constructor(readonly failure: Failure) {
    super(failure.kind)
  }
}

/** One connection; one question at a time, as small devices want it (MODBUS Messaging on TCP/IP V1.0b §4.2). */
export class ModbusSession {
  #transaction = 0

  private constructor(
    private readonly socket: Socket,
    private readonly endpoint: Endpoint,
    private readonly untilMs: number,
    private readonly timeoutMs: number,
    private readonly trace: ((exchange: Exchange) => void) | undefined,
  ) {}

  /** @throws ModbusFailure when there is no connection */
  static async open(
    endpoint: Endpoint,
    timeoutMs: number,
    trace: ((exchange: Exchange) => void) | undefined,
  ): Promise<ModbusSession> {
    const untilMs = performance.now() + timeoutMs
    const opened = await openTcp(endpoint, timeoutMs)
    if ('failure' in opened) throw new ModbusFailure(opened.failure)
    // Errors are heard where something is awaited.
    opened.socket.on('error', () => undefined)
    return new ModbusSession(opened.socket, endpoint, untilMs, timeoutMs, trace)
  }

  close(): void {
    this.socket.destroy()
  }

  /**
   * @throws ModbusException when the device refuses
   * @throws ModbusFailure for everything else that goes wrong
   */
  async read(unit: number, span: RegisterSpan): Promise<RegisterBlock> {
    this.#transaction = (this.#transaction + 1) & 0xffff
    const asked = { ...span, unit, transaction: this.#transaction }
    const sent = `READ ${span.count} ${span.table} from ${span.address} of unit ${unit}`
    const startedMs = performance.now()
    const tell = (received: string): void =>
      this.trace?.({ sent, received, tookMs: performance.now() - startedMs, isAccepted: false })
    try {
      this.socket.write(encodeQuestion(asked))
      const frame = await this.#frame()
      const values = decodeAnswer(frame, asked)
      tell(`${frame.length} B with ${values.length} values`)
      return { table: span.table, address: span.address, values }
    } catch (error) {
      if (error instanceof ModbusException) {
        tell(error.message)
        throw error
      }
      if (error instanceof FrameError) {
        tell(error.message)
        throw new ModbusFailure(this.#strange(error))
      }
      if (error instanceof ModbusFailure) tell(whatHappened(error.failure))
      throw error
    }
  }

  #seen: Buffer = Buffer.alloc(0)

  #strange({ message, isModbus }: FrameError): Failure {
    const address = addressOf(this.endpoint)
    const seen = printable(this.#seen.toString('latin1'))
    return isModbus
      ? { kind: 'malformed', address, detail: message }
      : { kind: 'otherProtocol', address, asked: 'Modbus', seen: seen === '' ? message : seen }
  }

  /** Octets until a frame is whole. */
  async #frame(): Promise<Buffer> {
    let bytes: Buffer = Buffer.alloc(0)
    for (;;) {
      const length = bytes.length === 0 ? null : frameLength(bytes)
      if (length !== null && bytes.length >= length) {
        if (bytes.length > length) throw new FrameError('more came than was asked for', true)
        return bytes
      }
      const next = await this.#next()
      bytes = Buffer.concat([bytes, next])
      this.#seen = bytes.subarray(0, 80)
    }
  }

  #next(): Promise<Buffer> {
    const address = addressOf(this.endpoint)
    return new Promise((resolve, reject) => {
      const { socket } = this
      const settle = (): void => {
        clearTimeout(deadline)
        socket.off('data', onData).off('close', onClose)
        socket.pause()
      }
      const onData = (data: Buffer): void => {
        settle()
        resolve(data)
      }
      const onClose = (): void => {
        settle()
        reject(
          new ModbusFailure({
            kind: 'connectionLost',
            address,
            detail: errorCode(socket.errored) === '' ? 'closed' : errorWords(socket.errored),
          }),
        )
      }
      const deadline = setTimeout(
        () => {
          settle()
          reject(
            new ModbusFailure({
              kind: 'timedOut',
              address,
              waitedMs: Math.round(this.timeoutMs),
              hint: 'Check the number of its unit: a gateway is silent when no unit has it.',
            }),
          )
        },
        Math.max(1, this.untilMs - performance.now()),
      )
      if (socket.destroyed) return onClose()
      socket.once('data', onData).once('close', onClose)
      socket.resume()
    })
  }
}

/** What a refusal of the device means, as a failure. */
export function refusalOf({ code }: ModbusException, address: string, span: RegisterSpan): Failure {
  const where = `${span.table} ${span.address}${span.count === 1 ? '' : ` to ${span.address + span.count - 1}`}`
  const hint =
    code === 10 || code === 11
      ? 'Check the number of its unit, and the line between gateway and unit.'
      : code === 5 || code === 6
        ? 'It is asked again at the next interval.'
        : 'Check the map against the list of registers that its maker gives: the table, and whether it counts from 0 or from 1.'
  return {
    kind: 'unsupported',
    address,
    detail: `it refuses ${where} with exception ${code}, ${exceptionText(code)}`,
    hint,
  }
}
