// Brings a database to the newest form before anything of ours runs on it, then ends.
import { join } from 'node:path'
import { runMigrations } from 'graphile-worker'
import { z } from 'zod'
import { COLLECTOR_ROLE, connect, giveRights, migrate, openPool, WEB_ROLE } from '#db/platform'
import { countShut, openKeyFile, settleKey } from '#db/sources'
import { SEEDS } from '#protocols/seeds'

const { RACK_DATABASE_URL, RACK_DATA, RACK_ROLE_PASSWORDS } = z
  .object({
    RACK_DATABASE_URL: z.url(),
    RACK_DATA: z.string().min(1),
    /** Of the roles that the processes work as, as JSON; where there is none, somebody else has seen to that. */
    RACK_ROLE_PASSWORDS: z.string().optional(),
  })
  .parse(process.env)
const pool = openPool(RACK_DATABASE_URL)
const db = connect(pool)
await migrate(db, SEEDS)
await runMigrations({ pgPool: pool })
if (RACK_ROLE_PASSWORDS !== undefined)
  await giveRights(
    db,
    z
      .object({ [COLLECTOR_ROLE]: z.string().min(16), [WEB_ROLE]: z.string().min(16) })
      .parse(JSON.parse(RACK_ROLE_PASSWORDS)),
  )
await settleKey(db, RACK_DATA)
const keyFile = join(RACK_DATA, 'secret.key')
const shut = await countShut(db, openKeyFile(keyFile))
if (shut > 0)
  console.log(
    `         ${shut} of the credentials cannot be opened: ${keyFile} is not the key that sealed them. Their sources are not read;\n         put back the key that belongs to this database, or enter the credentials anew.`,
  )
await db.destroy()
