import { sql } from 'kysely'
import type { SilentGear } from '#core/sources'
import type { Db } from '../platform/connect.ts'

/** The gear that a source tells of, with who else tells of each and is not silent, and what runs on it. */
export async function gearOfSilent(db: Db, sourceId: number): Promise<SilentGear[]> {
  const { rows } = await sql<SilentGear>`
    select gear.name, gear.kind,
      (select count(*)::int from sighting other where other.gear_id = gear.id and other.source_id <> ${sourceId}
        and not exists (
          select 1 from alert where alert.source_id = other.source_id and alert.series_id is null
            and alert.cleared_at is null)) as others,
      (select count(*)::int from link where link.kind = 'hosts' and link.from_gear_id = gear.id) as machines
    from sighting join gear on gear.id = sighting.gear_id
    where sighting.source_id = ${sourceId} and gear.merged_into is null
    order by gear.id`.execute(db)
  return rows
}
