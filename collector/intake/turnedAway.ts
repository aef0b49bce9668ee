import { type Db, isServerAway } from '#db/platform'
import { type Attempt, recordTurnedAway, type TurnedAway } from '#db/sources'
import { plainAddress } from '#protocols/reach'
import { log } from '../platform/log.ts'

/** So many addresses are told apart between two writes; of what comes from further ones only the count is logged. */
const MOST_ADDRESSES = 500

/**
 * Counts who is turned away, by address, and writes it down now and then: whoever knocks often costs no more than who
 * knocks once.
 */
export class TurnedAwayCounts {
  readonly #met = new Map<string, TurnedAway>()
  #others = 0

  constructor(private readonly db: Db) {}

  count(address: string, what: Attempt, reason: string): void {
    const plain = plainAddress(address)
    const key = `${plain} ${what}`
    const known = this.#met.get(key)
    if (known === undefined && this.#met.size >= MOST_ADDRESSES) {
      this.#others += 1
      return
    }
    const now = new Date()
    this.#met.set(key, {
      address: plain,
      what,
      reason,
      count: (known?.count ?? 0) + 1,
      firstAt: known?.firstAt ?? now,
      lastAt: now,
    })
  }

  async write(): Promise<void> {
    const met = [...this.#met.values()]
    if (this.#others > 0) log.warn({ others: this.#others }, 'more addresses than are kept were turned away')
    this.#others = 0
    this.#met.clear()
    try {
      await recordTurnedAway(this.db, met)
    } catch (error) {
      // It is only a list for people: what comes while the database is away is not kept.
      if (!isServerAway(error)) throw error
    }
  }
}
