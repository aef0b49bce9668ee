import type { Findings } from '#core/topology'
import { type Db, isServerAway } from '#db/connect'
import { type Placement, storeFindings } from '#db/findings'
import { announce } from '#db/live'
import { ensurePartitions } from '#db/readings'
import { recordHeard } from '#db/sources'
import { log } from './log.ts'
import type { Spool } from './spool.ts'

/** What one source brought at one instant, as it waits to be stored. Plain JSON. */
export interface Taken {
  readonly sourceId: number
  readonly atMs: number
  readonly heardAtMs: number
  readonly durationMs: number | null
  readonly findings: Findings
}

export interface StoredMoment {
  readonly taken: Taken
  readonly seriesIds: readonly number[]
}

const DAY_MS = 86_400_000

/**
 * Takes moments over and brings them into the database, in order, once each.
 * `take` resolves only when the moment is safe: committed, or on disk because the database is away.
 */
export class Delivery {
  readonly #placements = new Map<number, Placement>()
  #partitions = { fromMs: 0, toMs: 0 }
  #draining: Promise<void> | null = null
  #retry: NodeJS.Timeout | undefined
  #closed = false

  constructor(
    private readonly db: Db,
    private readonly spool: Spool<Taken>,
    private readonly onStored: (stored: StoredMoment) => Promise<void>,
  ) {}

  async take(taken: Taken): Promise<void> {
    if (this.spool.isEmpty && this.#draining === null) {
      try {
        await this.#store(taken)
        return
      } catch (error) {
        if (!isServerAway(error)) throw error
        log.warn({ reason: String(error) }, 'the database is away; readings go to disk')
      }
    }
    await this.spool.append(taken)
    this.drainSoon(1000)
  }

  /** Delivers what waits on disk, now and until it is empty. */
  drainSoon(delayMs: number): void {
    clearTimeout(this.#retry)
    if (!this.#closed) this.#retry = setTimeout(() => void this.#drain(), delayMs)
  }

  async close(): Promise<void> {
    this.#closed = true
    clearTimeout(this.#retry)
    await this.#draining
  }

  #drain(): Promise<void> {
    this.#draining ??= this.#drainAll().finally(() => {
      this.#draining = null
    })
    return this.#draining
  }

  async #drainAll(): Promise<void> {
    try {
      const count = await this.spool.drain(async (taken) => {
        if (this.#closed) throw new Error('the collector is stopping')
        try {
          await this.#store(taken)
        } catch (error) {
          // What the database will never take (its source was removed, say) must not hold up the rest.
          if (isServerAway(error)) throw error
          log.error(
            { sourceId: taken.sourceId, reason: String(error) },
            'a moment from disk cannot be stored',
          )
        }
      })
      if (count > 0) log.info({ moments: count }, 'readings kept on disk are delivered')
    } catch (error) {
      if (!this.#closed) log.warn({ reason: String(error) }, 'delivery from disk waits')
      this.drainSoon(2000)
    }
  }

  async #store(taken: Taken): Promise<void> {
    await this.#ensurePartition(taken.atMs)
    const stored = await this.db.transaction().execute(async (trx) => {
      const result = await storeFindings(trx, taken, this.#placements.get(taken.sourceId) ?? null)
      await recordHeard(trx, taken.sourceId, new Date(taken.heardAtMs), taken.durationMs)
      await announce(trx, { topic: 'readings', sourceId: taken.sourceId })
      return result
    })
    this.#placements.set(taken.sourceId, stored.placement)
    if (stored.stored !== 'duplicate')
      await this.onStored({ taken, seriesIds: stored.placement.layout.seriesIds })
  }

  async #ensurePartition(atMs: number): Promise<void> {
    if (atMs >= this.#partitions.fromMs && atMs < this.#partitions.toMs) return
    const fromMs = Math.floor(atMs / DAY_MS) * DAY_MS
    await ensurePartitions(this.db, fromMs, fromMs + 2 * DAY_MS)
    this.#partitions = { fromMs, toMs: fromMs + 2 * DAY_MS }
  }
}
