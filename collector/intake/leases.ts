import { type Db, isServerAway } from '#db/platform'
import { firstCollector, giveUpLeases, keepLeases, LEASE_MS } from '#db/sources'
import { log } from '../platform/log.ts'

/** Before a lease ends nothing new is begun: clocks, and a reading that is under way. */
const MARGIN_MS = 500
const PAUSE_MS = 1000

/**
 * The sources that this collector asks, out of all. While the database is away nobody can take them over, so they are
 * kept, and what is read goes to disk.
 */
export class Leases {
  #held: ReadonlySet<number> = new Set()
  #untilMs = 0
  #timer: NodeJS.Timeout | undefined
  #keeping: Promise<void> = Promise.resolve()
  #closed = false

  constructor(
    private readonly db: Db,
    private readonly collector: string,
    /** Told of the sources that have come, and of those that have gone, whenever there are some. */
    private readonly onChange: (change: { came: readonly number[]; went: readonly number[] }) => void,
  ) {}

  async start(): Promise<void> {
    await this.#keep()
    this.#arm()
  }

  get held(): ReadonlySet<number> {
    return this.#held
  }

  /** Whether a source may be asked at this moment. */
  mayRead(sourceId: number): boolean {
    return this.#held.has(sourceId) && performance.now() < this.#untilMs - MARGIN_MS
  }

  /** Whether this is the first of the collectors that are alive: what must be done once is done by it. */
  async isFirst(): Promise<boolean> {
    return (await firstCollector(this.db, LEASE_MS)) === this.collector
  }

  /** Looks at once, as when there is a new source. */
  async look(): Promise<void> {
    this.#keeping = this.#keeping.then(() => this.#keep())
    await this.#keeping
  }

  async close(): Promise<void> {
    this.#closed = true
    clearTimeout(this.#timer)
    await this.#keeping
    await giveUpLeases(this.db, this.collector).catch(() => undefined)
  }

  #arm(): void {
    if (!this.#closed) this.#timer = setTimeout(() => void this.look().finally(() => this.#arm()), PAUSE_MS)
  }

  async #keep(): Promise<void> {
    if (this.#closed) return
    const askedMs = performance.now()
    try {
      const now = new Set(await keepLeases(this.db, this.collector, LEASE_MS))
      const came = [...now].filter((id) => !this.#held.has(id))
      const went = [...this.#held].filter((id) => !now.has(id))
      this.#held = now
      this.#untilMs = askedMs + LEASE_MS
      if (came.length + went.length > 0) this.onChange({ came, went })
    } catch (error) {
      if (isServerAway(error)) this.#untilMs = Infinity
      else log.error({ reason: String(error) }, 'the leases of sources could not be renewed')
    }
  }
}
