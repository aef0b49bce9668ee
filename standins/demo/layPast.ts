import { setTimeout as pause } from 'node:timers/promises'
import { z } from 'zod'
import { forecastSoon } from '#db/forecast'
import { connect, openPool, readDemoProgress, writeDemoProgress } from '#db/platform'
import { surveySoon } from '#db/readings'
import { portsFrom } from '../site/index.ts'
import { Past, type Stretch, stretches } from './past.ts'

// Lays down what of the demo's past is still missing, beside the running application: first all of what is finite, so that
// it is forecast soon, then the rest, the newest days first.

const given = z.object({ RACK_DATABASE_URL: z.url(), RACK_PORT: z.coerce.number().int() }).parse(process.env)
let isStopping = false
let isHurrying = false
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
    isStopping: () => isStopping,
    after: async () => {
      // What is forecast is waited for.
      if (isHurrying) return
      await pause(REST * (performance.now() - sinceMs))
      sinceMs = performance.now()
    },
  })
  const all = stretches(bornMs, setting.days)
  isHurrying = true
  while (setting.finiteDone < all.length && !isStopping) {
    const at: number = Math.max(setting.finiteDone, setting.done)
    if (at < all.length && !(await past.lay(all[at]!, 'finite'))) break
    setting = { ...setting, finiteDone: at + 1 }
    if (setting.finiteDone >= all.length) setting = { ...setting, laid: 'finite' }
    await writeDemoProgress(db, setting)
    if (setting.laid === 'finite') await forecastSoon(db)
  }
  isHurrying = false
  while (setting.done < all.length && !isStopping) {
    const stretch: Stretch = all[setting.done]!
    if (!(await past.lay(stretch, 'rest'))) break
    setting = {
      ...setting,
      done: setting.done + 1,
      doneDays: Math.floor(bornMs / 86_400_000) - stretch.fromDay,
      ...(setting.done + 1 >= all.length ? { laid: 'all' } : {}),
    }
    await writeDemoProgress(db, setting)
    await surveySoon(db)
  }
}
await db.destroy()
process.exit(0)
