// Brings a database to the newest form before anything of ours runs on it, then ends.
import { z } from 'zod'
import { connect, migrate, openPool } from '#db/platform'
import { SEEDS } from '#protocols/seeds'

const { RACK_DATABASE_URL } = z.object({ RACK_DATABASE_URL: z.url() }).parse(process.env)
const db = connect(openPool(RACK_DATABASE_URL))
await migrate(db, SEEDS)
await db.destroy()
