// Brings a database to the newest form before anything of ours runs on it, then ends.
import { join } from 'node:path'
import { z } from 'zod'
import { connect, migrate, openPool } from '#db/platform'
import { countShut, openKeyFile, settleKey } from '#db/sources'
import { SEEDS } from '#protocols/seeds'

const { RACK_DATABASE_URL, RACK_DATA } = z
  .object({ RACK_DATABASE_URL: z.url(), RACK_DATA: z.string().min(1) })
  .parse(process.env)
const db = connect(openPool(RACK_DATABASE_URL))
await migrate(db, SEEDS)
await settleKey(db, RACK_DATA)
const keyFile = join(RACK_DATA, 'secret.key')
const shut = await countShut(db, openKeyFile(keyFile))
if (shut > 0)
  console.log(
    `         ${shut} of the credentials cannot be opened: ${keyFile} is not the key that sealed them. Their sources are not read;\n         put back the key that belongs to this database, or enter the credentials anew.`,
  )
await db.destroy()
