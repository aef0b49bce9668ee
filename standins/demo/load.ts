import { join } from 'node:path'
import { z } from 'zod'
import { connect, type Db, isSiteNamed, openPool, writeDemoProgress } from '#db/platform'
import { openKeyFile } from '#db/sources'
import { portsFrom } from '../site/index.ts'
import { siteBirth } from '../standins.ts'
import { loadDemo } from './demo.ts'
import { layPastLines } from './layPastLines.ts'
import { FIRST_DAYS, Past, PAST_DAYS, stretches } from './past.ts'

const environment = z.object({
  RACK_DATABASE_URL: z.url(),
  RACK_DATA: z.string().min(1),
  RACK_PORT: z.coerce.number().int(),
  RACK_DEMO_INTERVAL_MS: z.coerce.number().int().default(10_000),
  RACK_DEMO_DAYS: z.coerce.number().int().min(FIRST_DAYS).max(PAST_DAYS).default(PAST_DAYS),
})
const given = environment.parse(process.env)
const db: Db = connect(openPool(given.RACK_DATABASE_URL))
if (!(await isSiteNamed(db))) {
  console.log(`         loading the demo, with ${FIRST_DAYS} days of its past`)
  const standinFolder = join(given.RACK_DATA, 'standins')
  const bornMs = siteBirth(standinFolder, Date.now())
  const sources = await loadDemo(db, {
    key: openKeyFile(join(given.RACK_DATA, 'secret.key')),
    standinFolder,
    portBase: given.RACK_PORT,
    intervalSeconds: given.RACK_DEMO_INTERVAL_MS / 1000,
    nowMs: bornMs,
  })
  const past = new Past(db, { bornMs, ports: portsFrom(given.RACK_PORT), sources })
  const all = stretches(bornMs, given.RACK_DEMO_DAYS)
  const first = all.findIndex(({ fromDay }) => fromDay < Math.floor(bornMs / 86_400_000) - FIRST_DAYS + 1)
  for (const stretch of all.slice(0, first)) await past.lay(stretch)
  await layPastLines(db, bornMs)
  await writeDemoProgress(db, {
    bornMs,
    days: given.RACK_DEMO_DAYS,
    done: first,
    doneDays: FIRST_DAYS - 1,
    laid: 'nothing',
    sources: Object.fromEntries(sources),
  })
}
await db.destroy()
