import { sql } from 'kysely'
import { type Battery, batteryKey, batteryLife } from '#core/power'
import type { Db } from '../platform/connect.ts'
import { insertItems } from '../sources/items.ts'

export interface KeptBattery extends Battery {
  readonly gearId: number
  readonly who: string
}

/** Of gear that is one with another now, the batteries of what is kept count, else those of what became one with it. */
const listed = sql<KeptBattery>`
  select distinct on (coalesce(gear.merged_into, gear.id))
    coalesce(gear.merged_into, gear.id) as "gearId", battery.installed::text, battery.years, battery.who
  from battery join gear on gear.id = battery.gear_id
  order by coalesce(gear.merged_into, gear.id), (gear.merged_into is null) desc`

async function listBatteries(db: Db): Promise<KeptBattery[]> {
  return (await listed.execute(db.withoutPlugins())).rows
}

export const findBattery = async (db: Db, gearId: number): Promise<KeptBattery | undefined> =>
  (await listBatteries(db)).find((battery) => battery.gearId === gearId)

/** Notes the battery that a UPS has now; it is watched with whatever tells of its UPS. `null`: nobody knows any more. */
export async function writeBattery(
  trx: Db,
  gearId: number,
  battery: Battery | null,
  who: string,
): Promise<void> {
  if (battery === null) {
    await sql`
      delete from battery using gear
      where gear.id = battery.gear_id and ${gearId}::int in (gear.id, gear.merged_into)`.execute(trx)
    return
  }
  const given = { ...battery, who, at: new Date() }
  await trx
    .insertInto('battery')
    .values({ gearId, ...given })
    .onConflict((conflict) => conflict.column('gearId').doUpdateSet(given))
    .execute()
  const seen = await trx
    .selectFrom('sighting')
    .select(['sourceId', 'key'])
    .where('gearId', '=', gearId)
    .execute()
  for (const { sourceId, key } of seen)
    await insertItems(trx, sourceId, [
      {
        gearKey: key,
        partKey: batteryKey(battery.installed),
        kind: 'battery',
        name: 'Battery',
        state: 'watched',
        why: null,
        goneAt: null,
      },
    ])
}

/** The batteries of the gear that each source tells of, by the key that it has there. */
export async function batteriesBySource(db: Db): Promise<Map<number, Map<string, Battery>>> {
  const batteries = new Map((await listBatteries(db)).map((each) => [each.gearId, each]))
  if (batteries.size === 0) return new Map()
  const rows = await db
    .selectFrom('sighting')
    .select(['sourceId', 'key', 'gearId'])
    .where(sql<boolean>`gear_id = any(${[...batteries.keys()]}::int[])`)
    .execute()
  const bySource = new Map<number, Map<string, Battery>>()
  for (const { sourceId, key, gearId } of rows) {
    const { installed, years } = batteries.get(gearId)!
    const known = bySource.get(sourceId) ?? new Map<string, Battery>()
    bySource.set(sourceId, known.set(key, { installed, years }))
  }
  return bySource
}

/** A series of the age of batteries that are in use. */
export interface AgeSeries extends Battery {
  readonly id: number
  readonly sourceId: number
  readonly partId: number
}

export async function listAgeSeries(db: Db): Promise<AgeSeries[]> {
  const batteries = new Map((await listBatteries(db)).map((each) => [each.gearId, each]))
  if (batteries.size === 0) return []
  const rows = await db
    .selectFrom('series')
    .innerJoin('part', 'part.id', 'series.partId')
    .select(['series.id', 'series.sourceId', 'part.id as partId', 'part.key', 'part.gearId'])
    .where('series.measure', '=', 'ups.battery.age')
    .where('part.kind', '=', 'battery')
    .execute()
  return rows.flatMap(({ key, gearId, ...row }) => {
    const battery = batteries.get(gearId)
    return battery === undefined || batteryKey(battery.installed) !== key
      ? []
      : [{ ...row, installed: battery.installed, years: battery.years }]
  })
}

/** Days that batteries in use are made for, by their part. */
export const batteryLives = async (db: Db): Promise<Map<number, number>> =>
  new Map((await listAgeSeries(db)).map((each) => [each.partId, batteryLife(each)]))
