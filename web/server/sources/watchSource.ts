import { silenceFinding } from '#core/alerts'
import { heardSinceStart, LEASE_MS } from '#db/sources'
import type { WatchSource } from '../shell/watchSource.ts'

/** So long sources that were not heard yet are no news. */
const STARTING_MS = 60_000

/** Sources that are not heard. Each has an alert of its own, and so no row here. */
export const silence: WatchSource = {
  hears: ['sources', 'places'],
  async load(present) {
    const [sources, silent, gear, heard] = await Promise.all([
      present.sourceCount(),
      present.silent(),
      present.gearCount(),
      heardSinceStart(present.db, LEASE_MS, STARTING_MS),
    ])
    return {
      finding: silenceFinding({ silent: silent.size, sources: sources.count, gear, heard }),
      rows: [],
      sourceIds: [],
      notes: [],
    }
  },
}
