import { type Count, growthRate } from '#core/readings'
import type { Findings } from '#core/topology'

/**
 * Turns counts of the far side into readings a second, from one moment of a source to the next. The first moment after
 * a start, a restart of the far side, or a jump of its clock gives no value.
 */
export class Rates {
  readonly #last = new Map<number, Map<string, Count>>()

  /** The findings with a reading for each count. The reading is there from the first moment on, so that its shape stays. */
  settle(sourceId: number, atMs: number, findings: Findings): Findings {
    const { counters, ...rest } = findings
    if (counters === undefined || counters.length === 0) return rest
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
    return { ...rest, readings: [...rest.readings, ...readings] }
  }

  forget(sourceId: number): void {
    this.#last.delete(sourceId)
  }
}
