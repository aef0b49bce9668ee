import { sql } from 'kysely'
import { z } from 'zod'
import { type Db, within } from '../platform/connect.ts'
import { announceAll } from '../platform/live.ts'

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

const TOGETHER = 2000

export async function insertTexts(db: Db, texts: readonly NewText[]): Promise<void> {
  if (texts.length === 0) return
  // A statement has room for 65 535 values.
  await within(db, async (trx) => {
    for (let start = 0; start < texts.length; start += TOGETHER)
      await trx
        .insertInto('deviceText')
        .values(texts.slice(start, start + TOGETHER))
        .execute()
  })
  const heard = [...new Set(texts.flatMap(({ sourceId }) => (sourceId === null ? [] : [sourceId])))]
  await announceAll(
    db,
    heard.map((sourceId) => ({ topic: 'texts' as const, sourceId })),
  )
}

const refusedSetting = z.object({ count: z.number(), lastMs: z.number() })
export type RefusedTexts = z.infer<typeof refusedSetting>

/** Notes that lines could not be stored. */
export async function countRefused(db: Db, count: number, atMs: number): Promise<void> {
  await sql`insert into setting (key, body) values ('refusedTexts', jsonb_build_object('count', ${count}::int, 'lastMs', ${atMs}::float8))
    on conflict (key) do update set body = jsonb_build_object(
      'count', (setting.body->>'count')::int + ${count}::int, 'lastMs', ${atMs}::float8)`.execute(db)
}

/** How many lines could not be stored so far; `null` when all could. */
export async function readRefused(db: Db): Promise<RefusedTexts | null> {
  const row = await db
    .selectFrom('setting')
    .select('body')
    .where('key', '=', 'refusedTexts')
    .executeTakeFirst()
  return refusedSetting.safeParse(row?.body).data ?? null
}

/** Whom an address or a host name belongs to: sources with what they see, and gear by name. */
export async function whoIsWho(db: Db) {
  const sources = await db
    .selectFrom('source')
    .leftJoin('sighting', 'sighting.sourceId', 'source.id')
    .select(['source.id', 'source.address', 'source.protocol', 'source.intervalSeconds'])
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

/** The ports of some gear by their `ifIndex` (RFC 2863), as a gear's id, a space, and the index. */
export async function portsByIndex(db: Db, gearIds: readonly number[]): Promise<ReadonlyMap<string, string>> {
  if (gearIds.length === 0) return new Map()
  const rows = await db
    .selectFrom('part')
    .select(['gearId', 'name', sql<string>`facts->>'ifIndex'`.as('index')])
    .where(sql<boolean>`gear_id = any(${[...gearIds]}::int[])`)
    .where('kind', '=', 'port')
    .where('isPresent', '=', true)
    .execute()
  return new Map(rows.map(({ gearId, name, index }) => [`${gearId} ${index}`, name]))
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

export interface TextFilter {
  /** Words as they are typed into a search: `"in a row"`, `-without`, `or`. Empty is all. */
  readonly query: string
  /** At most this severity, 0 emergency to 7 debug. */
  readonly atMost: number
  readonly gearId: number | null
  /** The program that said it, exactly; `null` is any. */
  readonly app: string | null
  readonly fromMs: number
  readonly toMs: number
}

const found = ({ query, atMost, gearId, app, fromMs, toMs }: TextFilter) => sql`
  heard_at between ${new Date(fromMs)} and ${new Date(toMs)} and severity <= ${atMost}
    ${query === '' ? sql`` : sql`and words @@ websearch_to_tsquery('simple', ${query})`}
    ${gearId === null ? sql`` : sql`and gear_id = ${gearId}`}
    ${app === null ? sql`` : sql`and app = ${app}`}`

export interface LoggedText {
  readonly id: string
  readonly heardMs: number
  readonly kind: 'syslog' | 'trap'
  readonly severity: number
  readonly app: string | null
  readonly host: string | null
  readonly body: string
  readonly times: number
  readonly address: string
  readonly gearId: number | null
  readonly gearName: string | null
}

/** A page of what was said, newest first. @param beforeId of the page before: its last line */
export async function searchTexts(
  db: Db,
  filter: TextFilter,
  beforeId: string | null,
  most: number,
): Promise<LoggedText[]> {
  const { rows } = await sql<LoggedText>`
    select text.id, extract(epoch from heard_at)::float8 * 1000 as "heardMs", text.kind, severity, app, host, body, times,
      address, gear_id as "gearId", gear.name as "gearName"
    from (
      select * from device_text where ${found(filter)}
        ${beforeId === null ? sql`` : sql`and (heard_at, id) < (select heard_at, id from device_text where id = ${beforeId})`}
      order by heard_at desc, id desc limit ${most}
    ) text left join gear on gear.id = text.gear_id
    order by heard_at desc, text.id desc`.execute(db)
  return rows
}

/** Of some gear what was said in a window as an error (severity 3 of RFC 5424) or graver, the newest first. */
export async function graveTexts(
  db: Db,
  gearIds: readonly number[],
  window: { readonly fromMs: number; readonly toMs: number },
  most: number,
) {
  const rows = await db
    .selectFrom('deviceText')
    .innerJoin('gear', 'gear.id', 'deviceText.gearId')
    .select([
      'deviceText.id',
      'heardAt',
      'severity',
      'body',
      'times',
      'gear.id as gearId',
      'gear.name as gear',
    ])
    .where('gear.id', 'in', gearIds)
    .where('severity', '<=', sql<number>`3`)
    .where('heardAt', '>=', new Date(window.fromMs))
    .where('heardAt', '<=', new Date(window.toMs))
    .orderBy('heardAt', 'desc')
    .orderBy('deviceText.id', 'desc')
    .limit(most)
    .execute()
  return rows.map(({ heardAt, ...row }) => ({ ...row, atMs: heardAt.getTime() }))
}

export interface TextRate {
  readonly fromMs: number
  readonly lines: number
  /** As grave as error, or graver. */
  readonly grave: number
}

/** How many lines were said in each of some spans of a window; a line that came again counts as often as it came. */
export async function rateOfTexts(db: Db, filter: TextFilter, buckets: number): Promise<TextRate[]> {
  const widthMs = Math.max(1000, Math.ceil((filter.toMs - filter.fromMs) / buckets))
  const { rows } = await sql<{ slot: number; lines: number; grave: number }>`
    select floor((extract(epoch from heard_at) * 1000 - ${filter.fromMs}) / ${widthMs})::int as slot,
      sum(times)::int as lines, coalesce(sum(times) filter (where severity <= 3), 0)::int as grave
    from device_text where ${found(filter)} group by 1`.execute(db)
  const known = new Map(rows.map((row) => [row.slot, row]))
  return Array.from({ length: buckets }, (_, slot) => ({
    fromMs: filter.fromMs + slot * widthMs,
    lines: known.get(slot)?.lines ?? 0,
    grave: known.get(slot)?.grave ?? 0,
  }))
}

/** Who said how much of it, most first. */
export async function speakers(db: Db, filter: TextFilter, most: number) {
  const { rows } = await sql<{ gearId: number | null; name: string; lines: number }>`
    select gear_id as "gearId", coalesce(gear.name, address) as name, sum(times)::int as lines
    from device_text left join gear on gear.id = gear_id
    where ${found(filter)} group by 1, 2 order by 3 desc, 2 limit ${most}`.execute(db)
  return rows
}

/** Which programs said how much of it, most first; what names none is left out. */
export async function programs(db: Db, filter: TextFilter, most: number) {
  const { rows } = await sql<{ name: string; lines: number }>`
    select app as name, sum(times)::int as lines from device_text
    where ${found(filter)} and app is not null group by 1 order by 2 desc, 1 limit ${most}`.execute(db)
  return rows
}

/** Stored lines of gear in turn, for a pattern to be tried on: gear after gear, oldest first. */
export async function linesForPattern(
  db: Db,
  pattern: string,
  atMost: number,
  sinceMs: number,
  most: number,
) {
  const like = `%${pattern.replaceAll(/[\\%_]/g, '\\$&').replaceAll(/\s*\*\s*/g, '%')}%`
  return db
    .selectFrom('deviceText')
    .innerJoin('gear', 'gear.id', 'deviceText.gearId')
    .select(['deviceText.gearId', 'gear.name', 'heardAt', 'times', 'app', 'body'])
    .where('heardAt', '>=', new Date(sinceMs))
    .where('severity', '<=', atMost)
    .where(sql<boolean>`coalesce(app, '') || ' ' || body ilike ${like}`)
    .orderBy('gearId')
    .orderBy('heardAt')
    .limit(most)
    .execute()
}

/**
 * Lets go of what is older than some days, and of the oldest while all together takes more than so much.
 * @returns how many lines went
 */
export async function keepTextsWithin(
  db: Db,
  { days, megabytes }: { readonly days: number; readonly megabytes: number },
  nowMs: number,
): Promise<number> {
  let gone = await dropTexts(db, nowMs - days * 86_400_000)
  const { rows } = await sql<{ bytes: number; lines: number }>`
    select pg_total_relation_size('device_text')::float8 as bytes, count(*)::float8 as lines from device_text`.execute(
    db,
  )
  const { bytes, lines } = rows[0]!
  // What was deleted leaves room in the table that is used again: its size is that of the most that it ever held.
  const perLine = lines === 0 ? 0 : Math.min(bytes / lines, 2000)
  const most = perLine === 0 ? Infinity : Math.floor((megabytes * 1e6) / Math.max(perLine, 100))
  if (lines > most) {
    // Up to the last line that goes, and not by a list of them: without statistics that would be looked through for each line.
    const over = await sql`
      with last as (select heard_at, id from device_text order by heard_at, id offset ${Math.ceil(lines - most) - 1} limit 1)
      delete from device_text using last where (device_text.heard_at, device_text.id) <= (last.heard_at, last.id)`.execute(
      db,
    )
    gone += Number(over.numAffectedRows ?? 0)
  }
  return gone
}

/** What they take on disk. */
export async function sizeOfTexts(db: Db): Promise<{ bytes: number; lines: number }> {
  const { rows } = await sql<{ bytes: number; lines: number }>`
    select pg_total_relation_size('device_text')::float8 as bytes,
      -- A few are counted; of many the database knows about how many there are.
      case when (select reltuples from pg_class where oid = 'device_text'::regclass) < 100000
        then (select count(*) from device_text)
        else (select reltuples from pg_class where oid = 'device_text'::regclass) end::float8 as lines`.execute(
    db,
  )
  return rows[0]!
}

/** @returns how many went */
export async function dropTexts(db: Db, beforeMs: number): Promise<number> {
  const gone = await db.deleteFrom('deviceText').where('heardAt', '<', new Date(beforeMs)).executeTakeFirst()
  return Number(gone.numDeletedRows)
}

/** What known gear said within a span, as rules on texts look at it, oldest first; of more than `most` the newest. */
export async function textsBefore(
  db: Db,
  { fromMs, toMs, most }: { readonly fromMs: number; readonly toMs: number; readonly most: number },
) {
  const rows = await db
    .selectFrom('deviceText')
    .select(['heardAt', 'severity', 'body', 'times', 'gearId', 'app'])
    .where('gearId', 'is not', null)
    .where('heardAt', '>', new Date(fromMs))
    .where('heardAt', '<', new Date(toMs))
    .orderBy('heardAt', 'desc')
    .limit(most)
    .execute()
  return rows.reverse()
}
