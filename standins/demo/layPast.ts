import { setTimeout as pause } from 'node:timers/promises'
import { z } from 'zod'
import { connect, openPool, readDemoProgress, writeDemoProgress } from '#db/platform'
import { surveySoon } from '#db/readings'
import { portsFrom } from '../site/index.ts'
import { Past, type Stretch, stretches } from './past.ts'

// Lays down what of the demo's past is still missing, the newest days first, beside the running application.

const given = z.object({ RACK_DATABASE_URL: z.url(), RACK_PORT: z.coerce.number().int() }).parse(process.env)
let isStopping = false
for (const signal of ['SIGTERM', 'SIGINT', 'disconnect'] as const)
  process.once(signal, () => (isStopping = true))

/** So much of the time it leaves to others. */
const REST = 0.6

const db = connect(openPool(given.RACK_DATABASE_URL))
let setting = await readDemoProgress(db)
if (setting !== null) {
  const { bornMs } = setting
  let sinceMs = performance.now()
  const past = new Past(db, {
    bornMs,
    ports: portsFrom(given.RACK_PORT),
    sources: new Map(Object.entries(setting.sources)),
    after: async () => {
      await pause(REST * (performance.now() - sinceMs))
      sinceMs = performance.now()
    },
  })
  const all = stretches(bornMs, setting.days)
  while (setting.done < all.length && !isStopping) {
    const stretch: Stretch = all[setting.done]!
    await past.lay(stretch)
    setting = {
      ...setting,
      done: setting.done + 1,
      doneDays: Math.floor(bornMs / 86_400_000) - stretch.fromDay,
    }
    await writeDemoProgress(db, setting)
    await surveySoon(db)
  }
}
await db.destroy()
process.exit(0)
