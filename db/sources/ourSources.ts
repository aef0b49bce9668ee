import { sql } from 'kysely'
import { z } from 'zod'
import { type Db, within } from '../platform/connect.ts'
import { writeSetting } from '../platform/settings.ts'
import { insertSource } from './sources.ts'

/** Under what the tool keeps what it makes itself, by the key of the setting that says which source it is. */
const OUR_SOURCES = {
  own: { name: 'Restless Rack', address: 'its own health' },
  clusters: { name: 'Clusters', address: 'summed up over their hosts' },
} as const
export type OurSource = keyof typeof OUR_SOURCES

/** The source under which something of ours is kept, made when it is first asked for. */
export async function ourSource(
  db: Db,
  which: OurSource,
  intervalSeconds: number,
): Promise<{ readonly sourceId: number; readonly isNew: boolean }> {
  const known = await findOurSource(db, which)
  if (known !== null) return { sourceId: known, isNew: false }
  return within(db, async (trx) => {
    await sql`select pg_advisory_xact_lock(7304)`.execute(trx)
    const there = await findOurSource(trx, which)
    if (there !== null) return { sourceId: there, isNew: false }
    const sourceId = await insertSource(trx, {
      ...OUR_SOURCES[which],
      protocol: 'otlp',
      settings: {},
      intervalSeconds,
      credentialId: null,
      token: null,
    })
    await writeSetting(trx, which, { sourceId })
    return { sourceId, isNew: true }
  })
}

/** `null` while there is none, or somebody has removed it. */
export async function findOurSource(db: Db, which: OurSource): Promise<number | null> {
  const row = await db.selectFrom('setting').select('body').where('key', '=', which).executeTakeFirst()
  const id = z.object({ sourceId: z.number() }).safeParse(row?.body).data?.sourceId
  if (id === undefined) return null
  return (await db.selectFrom('source').select('id').where('id', '=', id).executeTakeFirst())?.id ?? null
}
