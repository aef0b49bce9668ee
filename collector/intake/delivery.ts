import type { Findings } from '#core/gear'
import { type Db, isServerAway, announceAll } from '#db/platform'
import { keptValues, type Placement, storeMoments, withNewest } from '#db/gear'
import { ensurePartitions } from '#db/readings'
import { lookFurtherBack, recordHeard } from '#db/sources'
import { log } from '../platform/log.ts'
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
  /** In the order of `seriesIds`. */
  readonly values: readonly (number | null)[]
}

interface Waiting {
  readonly taken: Taken
  readonly resolve: () => void
  readonly reject: (error: unknown) => void
}

const DAY_MS = 86_400_000
/** Moments that are committed together. What comes while a commit is under way makes up the next one. */
const MOST_TOGETHER = 256
/** Sources whose moments are passed on at a time. */
const PASSED_TOGETHER = 4

/**
 * Takes moments over and brings them into the database, in order, once each.
 * `take` resolves only when the moment is safe: committed, or on disk because the database is away.
 */
export class Delivery {
  readonly #placements = new Map<number, readonly Placement[]>()
  /** Senders that were seen to bring now these series, now those. */
  readonly #split = new Set<number>()
  readonly #waiting: Waiting[] = []
  readonly #layouts = new Map<number, readonly number[]>()
  #partitions = { fromMs: 0, toMs: 0 }
  #storing: Promise<void> | null = null
  #draining: Promise<void> | null = null
  #retry: NodeJS.Timeout | undefined
  #closed = false

  constructor(
    private readonly db: Db,
    private readonly spool: Spool<Taken>,
    private readonly onStored: (stored: StoredMoment) => Promise<void>,
  ) {}

  take(taken: Taken): Promise<void> {
    const safe = new Promise<void>((resolve, reject) => {
      this.#waiting.push({ taken, resolve, reject })
    })
    this.#storing ??= this.#storeWaiting().finally(() => {
      this.#storing = null
    })
    return safe
  }

  /** Delivers what waits on disk, now and until it is empty. */
  drainSoon(delayMs: number): void {
    clearTimeout(this.#retry)
    if (!this.#closed) this.#retry = setTimeout(() => void this.#drain(), delayMs)
  }

  /** What is watched of a source has changed: its next moment is placed anew. */
  forget(sourceId: number): void {
    this.#placements.delete(sourceId)
  }

  async close(): Promise<void> {
    this.#closed = true
    clearTimeout(this.#retry)
    await this.#storing
    await this.#draining
  }

  async #storeWaiting(): Promise<void> {
    // A turn of the event loop lets what arrives at the same moment come along.
    await new Promise((resolve) => setImmediate(resolve))
    while (this.#waiting.length > 0) {
      const batch = this.#waiting.splice(0, MOST_TOGETHER)
      if (this.spool.isEmpty && this.#draining === null) await this.#storeBatch(batch)
      else await this.#keepOnDisk(batch)
    }
  }

  async #storeBatch(batch: readonly Waiting[], isAgain = false): Promise<void> {
    try {
      const stored = await this.#store(batch.map(({ taken }) => taken))
      for (const { resolve } of batch) resolve()
      await this.#pass(stored)
    } catch (error) {
      if (isServerAway(error)) {
        log.warn({ reason: String(error) }, 'the database is away; readings go to disk')
        await this.#keepOnDisk(batch)
      } else if (batch.length === 1 && isPartitionGone(error) && !isAgain) await this.#storeBatch(batch, true)
      else if (batch.length === 1) batch[0]!.reject(error)
      // One that the database will never take must not keep the others from being stored.
      else for (const one of batch) await this.#storeBatch([one])
    }
  }

  /** Those of one source in their order, those of several side by side. */
  async #pass(stored: readonly StoredMoment[]): Promise<void> {
    const bySource = new Map<number, StoredMoment[]>()
    for (const each of stored)
      bySource.set(each.taken.sourceId, [...(bySource.get(each.taken.sourceId) ?? []), each])
    const rows = [...bySource.values()]
    await Promise.all(
      Array.from({ length: PASSED_TOGETHER }, async () => {
        for (let row = rows.shift(); row !== undefined; row = rows.shift())
          for (const each of row) await this.onStored(each)
      }),
    )
  }

  async #keepOnDisk(batch: readonly Waiting[]): Promise<void> {
    await Promise.all(
      batch.map(({ taken, resolve, reject }) => this.spool.append(taken).then(resolve, reject)),
    )
    this.drainSoon(1000)
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
          for (const each of await this.#store([taken], true)) await this.onStored(each)
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

  /** Stores moments in one transaction. @returns those that brought something new */
  async #store(batch: readonly Taken[], isLate = false): Promise<StoredMoment[]> {
    for (const { atMs } of batch) await this.#ensurePartition(atMs)
    const results = await this.db.transaction().execute(async (trx) => {
      const stored = await storeMoments(trx, batch, this.#placements)
      await recordHeard(
        trx,
        batch.map(({ sourceId, heardAtMs, durationMs }) => ({
          sourceId,
          at: new Date(heardAtMs),
          durationMs,
          isLate,
        })),
      )
      const sourceIds = new Set(batch.map((taken) => taken.sourceId))
      await announceAll(
        trx,
        [...sourceIds].map((sourceId) => ({ topic: 'readings', sourceId })),
      )
      return stored
    })
    for (const [index, { placement }] of results.entries())
      await this.#remember(batch[index]!.sourceId, placement)
    return results.flatMap(({ placement, stored }, index) =>
      stored === 'duplicate'
        ? []
        : [
            {
              taken: batch[index]!,
              seriesIds: placement.layout.seriesIds,
              values: keptValues(placement, batch[index]!.findings),
            },
          ],
    )
  }

  async #remember(sourceId: number, placement: Placement): Promise<void> {
    const known = this.#placements.get(sourceId) ?? []
    this.#placements.set(sourceId, withNewest(known, placement))
    const last = this.#layouts.get(sourceId) ?? []
    if (last[0] === placement.layout.id) return
    this.#layouts.set(sourceId, [placement.layout.id, ...last].slice(0, 4))
    // Back to a layout of a while ago: they come in turns, and the newest row has not everything.
    if (!last.includes(placement.layout.id) || this.#split.has(sourceId)) return
    this.#split.add(sourceId)
    await lookFurtherBack(this.db, sourceId)
  }

  async #ensurePartition(atMs: number): Promise<void> {
    if (atMs >= this.#partitions.fromMs && atMs < this.#partitions.toMs) return
    const fromMs = Math.floor(atMs / DAY_MS) * DAY_MS
    await ensurePartitions(this.db, fromMs, fromMs + 2 * DAY_MS)
    // Only days that nobody drops are remembered: an old day's partition may go again once it is sealed.
    if (fromMs + DAY_MS >= Date.now()) this.#partitions = { fromMs, toMs: fromMs + 2 * DAY_MS }
  }
}

/** The partition of a past day was dropped, empty, between being made sure of and being written to (SQLSTATE 23514). */
const isPartitionGone = (error: unknown): boolean =>
  error instanceof Error && 'code' in error && error.code === '23514'
