import { join } from 'node:path'
import { z } from 'zod'
import { connect, type Db, KeptLists, openPool } from '#db/platform'
import { openKeyFile, type SecretKey } from '#db/sources'
import { type Doors, doorsFrom } from './doors.ts'

const environment = z.object({
  RACK_DATABASE_URL: z.url(),
  RACK_DATA: z.string().min(1),
  RACK_RECEIVER_PORT: z.coerce.number().int().default(8462),
})

export interface Installation {
  readonly db: Db
  readonly lists: KeptLists
  readonly pool: ReturnType<typeof openPool>
  readonly databaseUrl: string
  readonly key: SecretKey
  readonly receiverPort: number
}

let opened: Installation | null = null
let known: Doors | null = null

/** How this process is reached, as its environment says. */
export const doors = (): Doors => (known ??= doorsFrom(process.env))

/** The one database and key of this process, opened at the first request that needs them. */
export function installation(): Installation {
  if (opened !== null) return opened
  const { RACK_DATABASE_URL, RACK_DATA, RACK_RECEIVER_PORT } = environment.parse(process.env)
  const pool = openPool(RACK_DATABASE_URL)
  opened = {
    db: connect(pool),
    lists: new KeptLists(),
    pool,
    databaseUrl: RACK_DATABASE_URL,
    key: openKeyFile(join(RACK_DATA, 'secret.key')),
    receiverPort: RACK_RECEIVER_PORT,
  }
  return opened
}

/** Closes it so that the process can end. */
export async function closeInstallation(): Promise<void> {
  const closing = opened
  opened = null
  await closing?.db.destroy()
}
