import { createHash } from 'node:crypto'
import { existsSync, mkdirSync } from 'node:fs'
import { type FileHandle, open } from 'node:fs/promises'
import { join } from 'node:path'

/** A line is read at once; what is longer than this is no line of ours. */
const LONGEST_LINE = 64 * 1024 * 1024
const WINDOW = 8 * 1024 * 1024

/**
 * Moments that could not be stored yet, in order, on disk. One line each: eight digits of its hash, a blank, JSON.
 * `append` returns after the whole line was written and synced; what was written in part is cut off again. A line that a
 * crash cut short does not fit its hash; it was never acknowledged, and is passed over and said. Lines are removed only
 * when every line was delivered, so a crash while delivering repeats some: the store takes a moment once however often it
 * comes.
 */
export class Spool<Item> {
  #file: FileHandle | null = null
  #size = 0
  #delivered = 0
  /** Behind the last whole line a part of one may stand. */
  #isTorn = false
  /** Writes and truncations one after the other. */
  #turn: Promise<unknown> = Promise.resolve()

  constructor(
    private readonly folder: string,
    private readonly limitBytes: number,
    /** Told of bytes in the file that are no line of ours. */
    private readonly damaged: (bytes: number) => void = () => undefined,
  ) {}

  /** Opens the file and counts what an earlier run left behind. */
  async open(): Promise<void> {
    if (!existsSync(this.folder)) mkdirSync(this.folder, { recursive: true, mode: 0o700 })
    this.#file = await open(join(this.folder, 'spool.jsonl'), 'a+', 0o600)
    this.#size = (await this.#file.stat()).size
    if (this.#size > 0) await this.#endLine()
  }

  /** A cut-off last line must not swallow the next one. */
  async #endLine(): Promise<void> {
    const { buffer, bytesRead } = await this.#handle.read({
      buffer: Buffer.alloc(1),
      position: this.#size - 1,
    })
    if (bytesRead === 1 && buffer[0] === 0x0a) return
    await this.#writeWhole(Buffer.from('\n'))
  }

  /** What waits on disk. */
  get bytes(): number {
    return Math.max(0, this.#size - this.#delivered)
  }

  get isEmpty(): boolean {
    return this.#delivered >= this.#size
  }

  /** @throws RangeError when the spool is at its limit: the moment is not taken over. */
  append(item: Item): Promise<void> {
    return this.#inTurn(async () => {
      const json = JSON.stringify(item)
      const line = Buffer.from(`${fingerprint(json)} ${json}\n`)
      if (this.#size + line.byteLength > this.limitBytes) {
        throw new RangeError(`the spool on disk is at its limit of ${this.limitBytes} bytes`)
      }
      if (line.byteLength > LONGEST_LINE)
        throw new RangeError(`a moment of ${line.byteLength} bytes is more than the spool takes`)
      await this.#writeWhole(line)
    })
  }

  /** All of it, synced, or nothing. The system may write a part only, as when a disk is full. */
  async #writeWhole(bytes: Buffer): Promise<void> {
    if (this.#isTorn) await this.#cutTail()
    this.#isTorn = true
    try {
      for (let at = 0; at < bytes.byteLength;) {
        const { bytesWritten } = await this.#handle.write(bytes, at)
        if (bytesWritten === 0) throw new Error('the disk takes nothing more')
        at += bytesWritten
      }
      await this.#handle.datasync()
      this.#size += bytes.byteLength
      this.#isTorn = false
    } catch (error) {
      // Should that fail, too, it is done before anything else is written.
      await this.#cutTail().catch(() => undefined)
      throw error
    }
  }

  async #cutTail(): Promise<void> {
    await this.#handle.truncate(this.#size)
    this.#isTorn = false
  }

  /**
   * Gives every waiting item to `deliver`, oldest first, and empties the file at the end.
   * Stops at the first rejection, which goes to the caller; the next drain begins there.
   */
  async drain(deliver: (item: Item) => Promise<void>): Promise<number> {
    let count = 0
    while (!this.isEmpty) {
      const lines = await this.#readLines()
      let at = 0
      while (at < lines.byteLength) {
        const next = lines.indexOf(0x0a, at) + 1
        const item = parseLine<Item>(lines.toString('utf8', at, next - 1))
        if (item !== null) {
          await deliver(item)
          count += 1
        } else if (next - at > 1) this.damaged(next - at)
        this.#delivered += next - at
        at = next
      }
      await this.#inTurn(async () => {
        if (this.#delivered < this.#size) return
        await this.#handle.truncate(0)
        this.#size = 0
        this.#delivered = 0
      })
    }
    return count
  }

  /** Whole lines from where delivery stands; empty where there is none, which is passed over. */
  async #readLines(): Promise<Buffer> {
    const waiting = this.#size - this.#delivered
    for (let window = WINDOW; ; window *= 2) {
      const { bytesRead, buffer } = await this.#handle.read({
        buffer: Buffer.alloc(Math.min(window, waiting)),
        position: this.#delivered,
      })
      const end = buffer.subarray(0, bytesRead).lastIndexOf(0x0a) + 1
      if (end > 0) return buffer.subarray(0, end)
      if (window < LONGEST_LINE && bytesRead < waiting) continue
      this.damaged(bytesRead)
      this.#delivered += bytesRead
      return buffer.subarray(0, 0)
    }
  }

  async close(): Promise<void> {
    await this.#turn
    await this.#file?.close()
    this.#file = null
  }

  get #handle(): FileHandle {
    if (this.#file === null) throw new Error('the spool is not open')
    return this.#file
  }

  #inTurn<Result>(work: () => Promise<Result>): Promise<Result> {
    const result = this.#turn.then(work)
    this.#turn = result.catch(() => undefined)
    return result
  }
}

const fingerprint = (text: string): string => createHash('sha256').update(text).digest('hex').slice(0, 8)

function parseLine<Item>(line: string): Item | null {
  const json = line.slice(9)
  return line[8] === ' ' && line.slice(0, 8) === fingerprint(json) ? (JSON.parse(json) as Item) : null
}
