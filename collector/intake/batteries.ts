import { type Battery, withBatteries } from '#core/power'
import type { Findings } from '#core/gear'
import { type Db, isServerAway } from '#db/platform'
import { batteriesBySource } from '#db/power'
import { log } from '../platform/log.ts'

/** What people say of the batteries of UPS units, told with what their sources tell: no UPS knows how old they are. */
export class Batteries {
  #bySource: ReadonlyMap<number, ReadonlyMap<string, Battery>> = new Map()

  constructor(private readonly db: Db) {}

  /** Reads them again. When that fails they stay as they were. */
  async look(): Promise<void> {
    try {
      this.#bySource = await batteriesBySource(this.db)
    } catch (error) {
      if (!isServerAway(error)) log.warn({ reason: String(error) }, 'batteries could not be read again')
    }
  }

  add(sourceId: number, atMs: number, findings: Findings): Findings {
    const batteries = this.#bySource.get(sourceId)
    return batteries === undefined ? findings : withBatteries(findings, batteries, atMs)
  }
}
