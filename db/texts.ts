import { sql } from 'kysely'
import type { Db } from './connect.ts'
import { announceAll } from './live.ts'

/** Something that a device said, not yet stored. */
export interface NewText {
  readonly heardAt: Date
  readonly saidAt: Date | null
  readonly address: string
  readonly host: string | null
  readonly kind: 'syslog' | 'trap'
  /** 0 emergency to 7 debug (RFC 5424 §6.2.1). */
  readonly severity: number
  readonly app: string | null
  readonly body: string
  readonly times: number
  readonly sourceId: number | null
  readonly gearId: number | null
}

export async function insertTexts(db: Db, texts: readonly NewText[]): Promise<void> {
  if (texts.length === 0) return
  await db.insertInto('deviceText').values(texts).execute()
  const heard = [...new Set(texts.flatMap(({ sourceId }) => (sourceId === null ? [] : [sourceId])))]
  await announceAll(
    db,
    heard.map((sourceId) => ({ topic: 'texts' as const, sourceId })),
  )
}

/** Whom an address or a host name belongs to: sources with what they see, and gear by name. */
export async function whoIsWho(db: Db) {
  const sources = await db
    .selectFrom('source')
    .leftJoin('sighting', 'sighting.sourceId', 'source.id')
    .select(['source.id', 'source.address', 'source.protocol'])
    .select((eb) => eb.fn.agg<number[]>('array_agg', ['sighting.gearId']).as('gearIds'))
    .groupBy('source.id')
    .orderBy('source.id')
    .execute()
  const gear = await db
    .selectFrom('gear')
    .select(['id', 'name'])
    .where('mergedInto', 'is', null)
    .orderBy('id')
    .execute()
  return {
    sources: sources.map(({ gearIds, ...source }) => ({
      ...source,
      gearIds: gearIds.filter((id): id is number => id !== null),
    })),
    gear,
  }
}

/** What a gear said last, newest first. */
export const textsOf = (db: Db, gearId: number, window: { fromMs: number; toMs: number }, limit: number) =>
  db
    .selectFrom('deviceText')
    .select(['id', 'heardAt', 'kind', 'severity', 'app', 'body', 'times', 'address'])
    .where('gearId', '=', gearId)
    .where('heardAt', '>=', new Date(window.fromMs))
    .where('heardAt', '<=', new Date(window.toMs))
    .orderBy('heardAt', 'desc')
    .orderBy('id', 'desc')
    .limit(limit)
    .execute()

/** Addresses that say something and belong to nothing watched here, with their last words. */
export async function strangers(db: Db, sinceMs: number) {
  const { rows } = await sql<{
    address: string
    host: string | null
    kind: string
    texts: string
    last: Date
    body: string
  }>`
    select address, (array_agg(host order by id desc))[1] as host, (array_agg(kind order by id desc))[1] as kind,
      sum(times)::text as texts, max(heard_at) as last, (array_agg(body order by id desc))[1] as body
    from device_text where gear_id is null and heard_at >= ${new Date(sinceMs)}
    group by address order by max(heard_at) desc limit 50`.execute(db)
  return rows
}

/** @returns how many went */
export async function dropTexts(db: Db, beforeMs: number): Promise<number> {
  const gone = await db.deleteFrom('deviceText').where('heardAt', '<', new Date(beforeMs)).executeTakeFirst()
  return Number(gone.numDeletedRows)
}
