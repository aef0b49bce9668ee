import type { Findings } from '#core/gear'
import { type Moving, withWattsAlone } from '#core/power'
import { type Db, isServerAway } from '#db/platform'
import { listStrips, type Outlet, type Strip } from '#db/power'
import { latestReadings } from '#db/readings'
import { log } from '../platform/log.ts'

/** What is older, and older than three intervals of its source, is not that of now. */
const OLD_MS = 2 * 60_000

type Neighbours = readonly (readonly Moving[])[]
const UNKNOWN: Neighbours = [[null]]

/** What each strip of outlets would have to carry alone, told with what its source tells of it. */
export class Strips {
  #bySource: ReadonlyMap<number, ReadonlyMap<string, Neighbours>> = new Map()
  #lookedMs = 0

  constructor(private readonly db: Db) {}

  /** Looks up what others carry. When that fails it stays as it was, until that is too old. */
  async look(nowMs: number): Promise<void> {
    try {
      const strips = await listStrips(this.db)
      this.#bySource = strips.length === 0 ? new Map() : await this.#moving(strips, nowMs)
      this.#lookedMs = nowMs
    } catch (error) {
      if (!isServerAway(error)) log.warn({ reason: String(error) }, 'strips could not be looked up')
    }
  }

  async #moving(strips: readonly Strip[], nowMs: number) {
    const ids = [...new Set(strips.map(({ sourceId }) => sourceId))]
    const latest = await latestReadings(this.db, ids)
    const now = ({ seriesId, intervalMs }: Outlet): Moving => {
      const reading = latest.get(seriesId)
      const isOld = reading === undefined || nowMs - reading.atMs > Math.max(OLD_MS, 3 * intervalMs)
      return isOld ? null : reading.value
    }
    const bySource = new Map<number, Map<string, Neighbours>>()
    for (const { sourceId, key, neighbours } of strips) {
      const own = bySource.get(sourceId) ?? new Map<string, Neighbours>()
      bySource.set(sourceId, own)
      own.set(
        key,
        neighbours.map((outlets) => outlets.map(now)),
      )
    }
    return bySource
  }

  /** What moves is that of now: to a moment of another time nothing can be said. */
  add(sourceId: number, atMs: number, findings: Findings): Findings {
    const strips = this.#bySource.get(sourceId)
    if (strips === undefined) return findings
    const isNow = Math.abs(atMs - this.#lookedMs) < OLD_MS
    return withWattsAlone(findings, isNow ? strips : new Map([...strips.keys()].map((key) => [key, UNKNOWN])))
  }
}
