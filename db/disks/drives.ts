import { sql } from 'kysely'
import type { GearKind, MeasureKey } from '#core/catalogue'
import type { Verdict } from '#core/forecast'
import type { Db } from '../platform/connect.ts'

/** A drive as it is known, without its readings. */
export interface DriveRow {
  readonly partId: number
  readonly name: string
  readonly facts: Readonly<Record<string, string>>
  readonly gearId: number
  readonly gear: string
  readonly gearKind: GearKind
  readonly rack: string | null
  readonly room: string | null
  readonly unit: number | null
  readonly writtenDaily: number | null
  readonly ratedBytes: number | null
}

/** All drives that are in their bays, or one. */
export const listDrives = (db: Db, partId?: number): Promise<DriveRow[]> =>
  db
    .selectFrom('part')
    .innerJoin('gear', 'gear.id', 'part.gearId')
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('room', 'room.id', 'rack.roomId')
    .leftJoin('drivePace', 'drivePace.partId', 'part.id')
    .leftJoin('driveRating', (join) => join.on(sql<boolean>`drive_rating.model = part.facts ->> 'model'`))
    .select([
      'part.id as partId',
      'part.name',
      'part.facts',
      'gear.id as gearId',
      'gear.name as gear',
      'gear.kind as gearKind',
      'gear.unit',
      'rack.name as rack',
      'room.name as room',
      'drivePace.writtenDaily',
      'driveRating.ratedBytes',
    ])
    .where('part.kind', '=', 'drive')
    .where('gear.mergedInto', 'is', null)
    .$if(partId === undefined, (query) => query.where('part.isPresent', '=', true))
    .$if(partId !== undefined, (query) => query.where('part.id', '=', partId!))
    .orderBy('gear.name')
    .orderBy('part.name')
    .execute()

export interface DriveSeries {
  readonly id: number
  readonly partId: number
  readonly measure: MeasureKey
  readonly sourceId: number
}

/** The series of drives, of some measures or all; of one drive or of all. */
export const listDriveSeries = async (
  db: Db,
  { partId, measures }: { readonly partId?: number; readonly measures?: readonly MeasureKey[] },
): Promise<DriveSeries[]> =>
  (await db
    .selectFrom('series')
    .innerJoin('part', 'part.id', 'series.partId')
    .select(['series.id', 'series.partId', 'series.measure', 'series.sourceId'])
    .where('part.kind', '=', 'drive')
    .$if(partId !== undefined, (query) => query.where('part.id', '=', partId!))
    .$if(measures !== undefined, (query) =>
      query.where(sql<boolean>`series.measure = any(${[...(measures ?? [])]}::text[])`),
    )
    .orderBy('series.id')
    .execute()) as DriveSeries[]

export interface DriveForecast {
  readonly partId: number
  readonly seriesId: number
  readonly verdict: Verdict
  readonly runOutMs: number | null
  readonly orderByMs: number | null
  readonly earlyMs: number | null
  readonly lateMs: number | null
  readonly sentence: string
}

/** What is forecast of the wear of drives. */
export async function listDriveForecasts(db: Db): Promise<DriveForecast[]> {
  const { rows } = await sql<DriveForecast>`
    select part.id as "partId", forecast.series_id as "seriesId", forecast.verdict,
      (extract(epoch from run_out_at) * 1000)::float8 as "runOutMs",
      (extract(epoch from order_by) * 1000)::float8 as "orderByMs",
      (body ->> 'earlyMs')::float8 as "earlyMs", (body ->> 'lateMs')::float8 as "lateMs",
      body ->> 'sentence' as sentence
    from forecast
    join series on series.id = forecast.series_id
    join part on part.id = series.part_id and part.kind = 'drive'
    order by order_by nulls last`.execute(db.withoutPlugins())
  return rows
}

/** Which models there are, and how many drives of each. */
export async function listModels(db: Db) {
  const { rows } = await sql<{
    model: string
    drives: number
    hasLife: boolean
    ratedBytes: number | null
    origin: string | null
    madeBy: string | null
  }>`
    select coalesce(told.model, drive_rating.model) as model, coalesce(told.drives, 0)::int as drives,
      coalesce(told.has_life, false) as "hasLife", rated_bytes as "ratedBytes", origin, made_by as "madeBy"
    from (
      select facts ->> 'model' as model, count(*) as drives,
        bool_or(exists (select from series where part_id = part.id and measure = 'hw.drive.life_left')) as has_life
      from part where kind = 'drive' and is_present and coalesce(facts ->> 'model', '') <> '' group by 1
    ) told
    full join drive_rating on drive_rating.model = told.model
    order by 1`.execute(db.withoutPlugins())
  return rows
}

export interface NewRating {
  readonly model: string
  readonly ratedBytes: number
  readonly origin: string
}

/** Keeps what makers promise; what was known of the same model is replaced. */
export async function writeRatings(trx: Db, ratings: readonly NewRating[], who: string): Promise<void> {
  if (ratings.length === 0) return
  await trx
    .insertInto('driveRating')
    .values(ratings.map(({ model, ratedBytes, origin }) => ({ model, ratedBytes, origin, madeBy: who })))
    .onConflict((conflict) =>
      conflict.column('model').doUpdateSet((eb) => ({
        ratedBytes: eb.ref('excluded.ratedBytes'),
        origin: eb.ref('excluded.origin'),
        madeBy: eb.ref('excluded.madeBy'),
        madeAt: sql<Date>`now()`,
      })),
    )
    .execute()
}

/** @returns whether it was there */
export async function deleteRating(trx: Db, model: string): Promise<boolean> {
  const gone = await trx
    .deleteFrom('driveRating')
    .where('model', '=', model)
    .returning('model')
    .executeTakeFirst()
  return gone !== undefined
}

/** What makers promise of the drives that there are, by part; bytes. */
export async function ratedBytesByPart(db: Db): Promise<Map<number, number>> {
  const { rows } = await sql<{ partId: number; ratedBytes: number }>`
    select part.id as "partId", rated_bytes as "ratedBytes" from part
    join drive_rating on drive_rating.model = part.facts ->> 'model'
    where part.kind = 'drive'`.execute(db.withoutPlugins())
  return new Map(rows.map(({ partId, ratedBytes }) => [partId, ratedBytes]))
}

export async function writePaces(
  db: Db,
  paces: readonly { readonly partId: number; readonly writtenDaily: number; readonly days: number }[],
): Promise<void> {
  if (paces.length === 0) return
  await db
    .insertInto('drivePace')
    .values([...paces])
    .onConflict((conflict) =>
      conflict.column('partId').doUpdateSet((eb) => ({
        writtenDaily: eb.ref('excluded.writtenDaily'),
        days: eb.ref('excluded.days'),
        madeAt: sql<Date>`now()`,
      })),
    )
    .execute()
}
