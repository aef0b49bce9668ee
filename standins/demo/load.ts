import { join } from 'node:path'
import { z } from 'zod'
import { connect, type Db, openPool } from '#db/connect'
import { migrate } from '#db/migrate'
import { openKeyFile } from '#db/secrets'
import { loadDemo } from './demo.ts'

const environment = z.object({
  RACK_DATABASE_URL: z.url(),
  RACK_DATA: z.string().min(1),
  RACK_PORT: z.coerce.number().int(),
  RACK_DEMO_INTERVAL_MS: z.coerce.number().int().default(10_000),
})
const given = environment.parse(process.env)
const db: Db = connect(openPool(given.RACK_DATABASE_URL))
await migrate(db)
const isLoaded = await db.selectFrom('site').select('id').executeTakeFirst()
if (isLoaded === undefined) {
  console.log('         loading the demo with a day of history')
  await loadDemo(db, {
    key: openKeyFile(join(given.RACK_DATA, 'secret.key')),
    standinFolder: join(given.RACK_DATA, 'standins'),
    portBase: given.RACK_PORT,
    intervalSeconds: given.RACK_DEMO_INTERVAL_MS / 1000,
    nowMs: Date.now(),
    historyMs: 86_400_000,
  })
}
await db.destroy()
