import { type Count, growthRate, meanBetween, type Seen } from '#core/readings'
import type { Findings, MeanFinding, ReadingFinding } from '#core/gear'

/**
 * Turns counts of the far side into readings a second, from one moment of a source to the next. The first moment after
 * a start, a restart of the far side, or a jump of its clock gives no value.
 */
export class Rates {
  readonly #last = new Map<number, Map<string, Count>>()
  readonly #seen = new Map<number, Map<string, Seen>>()

  /** The findings with a reading for each count. The reading is there from the first moment on, so that its shape stays. */
  settle(sourceId: number, atMs: number, findings: Findings): Findings {
    const { counters, means, ...rest } = findings
    const settled = {
      ...rest,
      readings: [...rest.readings, ...this.#settleMeans(sourceId, atMs, means ?? [])],
    }
    if (counters === undefined || counters.length === 0) return settled
    const before = this.#last.get(sourceId) ?? new Map<string, Count>()
    const now = new Map<string, Count>()
    const readings = counters.map(({ gear, part, measure, value, bits, countingMs, scale = 1 }) => {
      const key = JSON.stringify([gear, part, measure])
      const count: Count = { atMs, value: BigInt(value), bits, countingMs }
      const known = before.get(key)
      // Of a moment that comes late there is nothing to compare with; the newest one stays.
      now.set(key, known !== undefined && known.atMs >= atMs ? known : count)
      const rate = known === undefined ? null : growthRate(known, count)
      return { gear, part, measure, value: rate === null ? null : rate * scale }
    })
    this.#last.set(sourceId, now)
    return { ...settled, readings: [...settled.readings, ...readings] }
  }

  #settleMeans(sourceId: number, atMs: number, means: readonly MeanFinding[]): ReadingFinding[] {
    if (means.length === 0) return []
    const seen = this.#seen.get(sourceId) ?? new Map<string, Seen>()
    this.#seen.set(sourceId, seen)
    return means.map(({ gear, part, measure, count, sum }) => {
      const key = JSON.stringify([gear, part, measure])
      const [before, now] = [seen.get(key), { atMs, count, sum }]
      if (before === undefined || before.atMs < atMs) seen.set(key, now)
      return { gear, part, measure, value: before === undefined ? null : meanBetween(before, now) }
    })
  }

  forget(sourceId: number): void {
    this.#last.delete(sourceId)
    this.#seen.delete(sourceId)
  }
}
