import { sql } from 'kysely'
import type { LeadTime, Topic } from '#core/forecast'
import type { Db } from '../platform/connect.ts'

export interface KeptLeadTime extends LeadTime {
  readonly id: number
  readonly gear: string | null
  readonly by: string
}

/** What people have said of how long an order takes, the widest first. */
export const listLeadTimes = (db: Db): Promise<KeptLeadTime[]> =>
  db
    .selectFrom('leadTime')
    .leftJoin('gear', 'gear.id', 'leadTime.gearId')
    .select([
      'leadTime.id',
      'leadTime.topic',
      'leadTime.tag',
      'leadTime.gearId',
      'leadTime.days',
      'gear.name as gear',
      'leadTime.madeBy as by',
    ])
    .orderBy('leadTime.topic')
    .orderBy(sql`(lead_time.gear_id is not null)::int + (lead_time.tag is not null)::int`)
    .orderBy('leadTime.tag')
    .orderBy('gear.name')
    .execute() as Promise<KeptLeadTime[]>

/** Keeps a lead time; what was said of the same before is replaced. */
export async function writeLeadTime(
  trx: Db,
  { topic, tag, gearId, days }: { topic: Topic; tag: string | null; gearId: number | null; days: number },
  who: string,
): Promise<void> {
  await sql`
    insert into lead_time (topic, tag, gear_id, days, made_by) values (${topic}, ${tag}, ${gearId}, ${days}, ${who})
    on conflict (topic, tag, gear_id) do update set days = excluded.days, made_by = excluded.made_by, made_at = now()`.execute(
    trx,
  )
}

/** @returns whether it was there */
export async function deleteLeadTime(trx: Db, id: number): Promise<boolean> {
  const gone = await trx.deleteFrom('leadTime').where('id', '=', id).returning('id').executeTakeFirst()
  return gone !== undefined
}
