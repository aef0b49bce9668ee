import { silenceFinding } from '#core/alerts'
import type { WatchSource } from '../shell/watchSource.ts'

/** Sources that are not heard. Each has an alert of its own, and so no row here. */
export const silence: WatchSource = {
  hears: ['sources', 'places'],
  async load(present) {
    const [sources, silent, gear] = await Promise.all([
      present.sourceCount(),
      present.silent(),
      present.gearCount(),
    ])
    return {
      finding: silenceFinding({ silent: silent.size, sources: sources.count, gear }),
      rows: [],
      sourceIds: [],
      notes: [],
    }
  },
}
