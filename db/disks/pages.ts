import { sql } from 'kysely'
import type { DrivePage } from '#core/disks'
import type { PageFinding } from '#core/gear'
import type { Db } from '../platform/connect.ts'

/** What one source brought at one instant, as far as pages go. */
export interface PagesFound {
  readonly sourceId: number
  readonly atMs: number
  readonly findings: { readonly pages?: readonly PageFinding[] }
}

/** Keeps the newest page of each drive. Of drives that are not watched none is kept. */
export async function storePages(trx: Db, moments: readonly PagesFound[]): Promise<void> {
  const newest = new Map<string, PageFinding & { sourceId: number; atMs: number }>()
  for (const { sourceId, atMs, findings } of moments)
    for (const page of findings.pages ?? []) {
      const key = `${sourceId}\n${page.gear}\n${page.part}`
      if ((newest.get(key)?.atMs ?? -Infinity) <= atMs) newest.set(key, { ...page, sourceId, atMs })
    }
  const pages = [...newest.values()]
  if (pages.length === 0) return
  const octets = (base64: string | null): Buffer | null =>
    base64 === null ? null : Buffer.from(base64, 'base64')
  await sql`
    insert into drive_page (part_id, kind, data, thresholds, read_at)
    select distinct on (item.part_id) item.part_id, given.kind, given.data, given.thresholds, given.at
    from unnest(
      ${pages.map(({ sourceId }) => sourceId)}::int[], ${pages.map(({ gear }) => gear)}::text[],
      ${pages.map(({ part }) => part)}::text[], ${pages.map(({ kind }) => kind)}::text[],
      ${pages.map(({ data }) => octets(data))}::bytea[], ${pages.map(({ thresholds }) => octets(thresholds))}::bytea[],
      ${pages.map(({ atMs }) => new Date(atMs))}::timestamptz[]
    ) as given (source_id, gear_key, part_key, kind, data, thresholds, at)
    join source_item item on item.source_id = given.source_id and item.gear_key = given.gear_key
      and item.part_key = given.part_key and item.part_id is not null and item.state = 'watched'
    order by item.part_id, given.at desc
    on conflict (part_id) do update set kind = excluded.kind, data = excluded.data,
      thresholds = excluded.thresholds, read_at = excluded.read_at
    where drive_page.read_at <= excluded.read_at`.execute(trx)
}

/** The last page of a drive, as its host read it. */
export async function findPage(
  db: Db,
  partId: number,
): Promise<{ readonly page: DrivePage; readonly readMs: number } | null> {
  const row = await db.selectFrom('drivePage').selectAll().where('partId', '=', partId).executeTakeFirst()
  if (row === undefined) return null
  const { kind, data, thresholds, readAt } = row
  return {
    page: kind === 'nvme-health' ? { kind, data } : { kind, data, thresholds },
    readMs: readAt.getTime(),
  }
}
