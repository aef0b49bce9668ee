import type { Db } from '#db/platform'
import { type OpenRecognition, recordRecognition, takeRecognition } from '#db/sources'
import type { SecretKey } from '#db/sources'
import type { Recognised } from '#core/sources'
import { whyNotThere } from '#protocols/reach'
import { recognise } from '#protocols/recognise'
import { log } from '../platform/log.ts'

/** Hosts that are looked at together. */
const AT_ONCE = 24
const TELL_MS = 700

/** Looks through addresses that people give, one request at a time. */
export class Recognitions {
  #running: Promise<void> | null = null
  #closed = false

  constructor(
    private readonly db: Db,
    private readonly key: SecretKey,
  ) {}

  /** Takes up what waits. Safe to call at any time. */
  async look(): Promise<void> {
    if (this.#running !== null || this.#closed) return
    const asked = await takeRecognition(this.db, this.key)
    if (asked === null || this.#closed) return
    this.#running = this.#do(asked)
      .catch((error: unknown) => {
        log.error({ recognition: asked.id, reason: String(error) }, 'addresses could not be looked through')
      })
      .finally(() => {
        this.#running = null
        void this.look().catch(() => undefined)
      })
  }

  async close(): Promise<void> {
    this.#closed = true
    await this.#running
  }

  async #do({ id, hosts, tcpPorts, udpPorts, credentials }: OpenRecognition): Promise<void> {
    const found = new Map<string, readonly Recognised[]>()
    const waiting = [...hosts]
    const all = () => hosts.flatMap((host) => found.get(host) ?? [])
    let writing = Promise.resolve()
    let toldMs = 0
    const tell = (isOver: boolean): Promise<void> => {
      if (!isOver && Date.now() - toldMs < TELL_MS) return writing
      toldMs = Date.now()
      const now = { done: found.size, found: all(), isOver }
      writing = writing.then(() => recordRecognition(this.db, id, now))
      return writing
    }
    const work = async (): Promise<void> => {
      for (let host = waiting.shift(); host !== undefined && !this.#closed; host = waiting.shift()) {
        // Each credential goes where it may, whatever range is looked through.
        const fitting = credentials.filter((each) => whyNotThere(each, each.kind, host) === null)
        found.set(host, await recognise(host, { tcp: tcpPorts, udp: udpPorts }, fitting))
        await tell(false)
      }
    }
    await Promise.all(Array.from({ length: AT_ONCE }, work))
    // One that is broken off is done again by whoever comes next.
    if (!this.#closed) await tell(true)
  }
}
