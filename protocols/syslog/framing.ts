/** A stream that is not one of syslog: a frame that is longer than any message. */
export class FramingError extends Error {}

const LONGEST = 65_536
const LF = 0x0a
const NUL = 0x00

/**
 * Cuts a TCP stream into messages (RFC 6587): by counted octets (§3.4.1), or by LF or NUL at their end (§3.4.2). Which
 * one a message has is told by its first octet.
 */
export class SyslogFrames {
  #bytes: Buffer = Buffer.alloc(0)

  /**
   * @returns the messages that are complete now
   * @throws FramingError
   */
  take(data: Buffer): Buffer[] {
    this.#bytes = this.#bytes.length === 0 ? data : Buffer.concat([this.#bytes, data])
    const messages: Buffer[] = []
    let at = 0
    for (;;) {
      const next = this.#next(at)
      if (next === null) break
      if (next.message.length > 0) messages.push(next.message)
      at = next.end
    }
    this.#bytes = this.#bytes.subarray(at)
    if (this.#bytes.length > LONGEST + 8) throw new FramingError('a message does not end')
    return messages
  }

  /** What is left when the stream ends is a message, too. */
  finish(): Buffer[] {
    const rest = this.#bytes
    this.#bytes = Buffer.alloc(0)
    return rest.length === 0 || startsWithCount(rest) ? [] : [rest]
  }

  #next(at: number): { message: Buffer; end: number } | null {
    const bytes = this.#bytes.subarray(at)
    if (bytes.length === 0) return null
    const counted = /^([1-9]\d{0,5}) /.exec(bytes.toString('latin1', 0, 8))
    if (counted !== null) {
      const [head, length] = [counted[0].length, Number(counted[1])]
      if (length > LONGEST) throw new FramingError(`a message of ${length} octets is announced`)
      if (bytes.length < head + length) return null
      return { message: bytes.subarray(head, head + length), end: at + head + length }
    }
    if (startsWithCount(bytes) && bytes.length < 8) return null
    const end = bytes.findIndex((octet) => octet === LF || octet === NUL)
    return end === -1 ? null : { message: bytes.subarray(0, end), end: at + end + 1 }
  }
}

/** It may be the beginning of a count. */
const startsWithCount = (bytes: Buffer): boolean => /^[1-9]\d{0,5} ?$/.test(bytes.toString('latin1', 0, 8))
