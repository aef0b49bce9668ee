import { sql } from 'kysely'
import type { GearKind, MeasureKey, PartKind } from '#core/catalogue'
import type { KeptForecast, Mark, Proof, Topic, Verdict } from '#core/forecast'
import { announce, type Db, recordChange } from '#db/platform'

export interface NewForecast {
  readonly seriesId: number
  readonly madeMs: number
  readonly topic: Topic
  readonly verdict: Verdict
  readonly runOutMs: number | null
  readonly orderByMs: number | null
  readonly body: KeptForecast
}

export interface ForecastRow extends NewForecast {
  readonly gearId: number
  readonly gear: string
  readonly gearKind: GearKind
  readonly part: string | null
  readonly partId: number | null
  readonly partKind: PartKind | null
  readonly measure: MeasureKey
  readonly tags: readonly string[]
  readonly rack: string | null
  readonly room: string | null
  /** What people have written down of the gear, its owner among it. */
  readonly own: Readonly<Record<string, string>>
  /** An order that somebody has noted and that should have come by then. */
  readonly order: {
    readonly id: number
    readonly words: string
    readonly expectedOn: string
    readonly by: string
  } | null
}

const dateOf = (ms: number | null): Date | null => (ms === null ? null : new Date(ms))

/** Writes forecasts in place of those before them, and tells who looks at them. */
export async function writeForecasts(db: Db, rows: readonly NewForecast[]): Promise<void> {
  if (rows.length === 0) return
  await db.transaction().execute(async (trx) => {
    await trx
      .insertInto('forecast')
      .values(
        rows.map(({ seriesId, madeMs, topic, verdict, runOutMs, orderByMs, body }) => ({
          seriesId,
          madeAt: new Date(madeMs),
          topic,
          verdict,
          runOutAt: dateOf(runOutMs),
          orderBy: dateOf(orderByMs),
          body: JSON.stringify(body),
        })),
      )
      .onConflict((conflict) =>
        conflict.column('seriesId').doUpdateSet((eb) => ({
          madeAt: eb.ref('excluded.madeAt'),
          topic: eb.ref('excluded.topic'),
          verdict: eb.ref('excluded.verdict'),
          runOutAt: eb.ref('excluded.runOutAt'),
          orderBy: eb.ref('excluded.orderBy'),
          body: eb.ref('excluded.body'),
        })),
      )
      .execute()
    await announce(trx, { topic: 'forecasts' })
  })
}

/** Has the job look ahead now, and not only at its next turn. */
export async function forecastSoon(db: Db): Promise<void> {
  await sql`select graphile_worker.add_job('forecast', '{}'::json, job_key := 'forecast now')`.execute(db)
}

/** Takes away what is finite no more. */
export const dropForecastsBut = (db: Db, seriesIds: readonly number[]): Promise<unknown> =>
  db
    .deleteFrom('forecast')
    .where(sql<boolean>`not (series_id = any(${[...seriesIds]}::int[]))`)
    .execute()

/** What is needed to tell whether a forecast is to be made anew. */
export async function listMade(db: Db) {
  const rows = await db
    .selectFrom('forecast')
    .select([
      'seriesId',
      'madeAt',
      sql<number>`(body ->> 'given')::float8`.as('line'),
      sql<number>`(body ->> 'days')::int`.as('days'),
      sql<string>`body ->> 'marks'`.as('marks'),
      sql<number>`(body ->> 'leadDays')::int`.as('leadDays'),
      sql<MeasureKey>`body ->> 'measure'`.as('measure'),
      sql<readonly Proof[]>`body -> 'proofs'`.as('proofs'),
      sql<number | null>`(body ->> 'provenToMs')::float8`.as('provenToMs'),
      'verdict',
      'runOutAt',
    ])
    .execute()
  return new Map(rows.map(({ madeAt, ...row }) => [row.seriesId, { ...row, madeMs: madeAt.getTime() }]))
}

/** Writes how right a forecast has been; it stays as it is in all else. */
export async function writeProofs(
  db: Db,
  seriesId: number,
  told: { readonly proofs: readonly Proof[]; readonly provenToMs: number },
): Promise<void> {
  await sql`update forecast set body = body || ${JSON.stringify(told)}::jsonb where series_id = ${seriesId}`.execute(
    db,
  )
}

/** Series with more of a past than when they were last looked at, roughly: days from the first sealed one. */
export async function daysOfHistory(db: Db, today: number): Promise<Map<number, number>> {
  const { rows } = await sql<{ id: number; first: number }>`
    select series_id as id, min(period) as first from summary group by series_id`.execute(db.withoutPlugins())
  return new Map(rows.map(({ id, first }) => [id, today - first * 30]))
}

/** In a list nothing is drawn: what is long stays away. */
const SHORT = sql<KeptForecast>`forecast.body - '{ahead,seen,others,whatIf,proofs}'::text[]`
const WHOLE = sql<KeptForecast>`forecast.body`

const listed = (db: Db, body: typeof WHOLE) =>
  db
    .selectFrom('forecast')
    .innerJoin('series', 'series.id', 'forecast.seriesId')
    .innerJoin('gear', 'gear.id', 'series.gearId')
    .leftJoin('part', 'part.id', 'series.partId')
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('room', 'room.id', 'rack.roomId')
    .leftJoinLateral(
      (eb) =>
        eb
          .selectFrom('forecastOrder')
          .select(['forecastOrder.id', 'words', 'expectedOn', 'madeBy'])
          .whereRef('forecastOrder.seriesId', '=', 'forecast.seriesId')
          .where('endedAt', 'is', null)
          .where('expectedOn', '>=', sql<Date>`current_date`)
          .orderBy('expectedOn', 'desc')
          .limit(1)
          .as('ordered'),
      (join) => join.onTrue(),
    )
    .select([
      'forecast.seriesId',
      'gear.id as gearId',
      'gear.name as gear',
      'gear.kind as gearKind',
      'gear.tags',
      'gear.own',
      'rack.name as rack',
      'room.name as room',
      'part.name as part',
      'part.id as partId',
      'part.kind as partKind',
      'series.measure',
      'forecast.madeAt',
      'forecast.topic',
      'forecast.verdict',
      'forecast.runOutAt',
      'forecast.orderBy',
      body.as('body'),
      'ordered.id as orderId',
      'ordered.words as orderWords',
      sql<string | null>`to_char(ordered.expected_on, 'YYYY-MM-DD')`.as('orderExpected'),
      'ordered.madeBy as orderMadeBy',
    ])

type Listed = Awaited<ReturnType<ReturnType<typeof listed>['execute']>>[number]
const rowOf = ({
  madeAt,
  runOutAt,
  orderBy,
  orderId,
  orderWords,
  orderExpected,
  orderMadeBy,
  ...row
}: Listed): ForecastRow => ({
  ...row,
  madeMs: madeAt.getTime(),
  runOutMs: runOutAt?.getTime() ?? null,
  orderByMs: orderBy?.getTime() ?? null,
  order:
    orderId === null
      ? null
      : { id: orderId, words: orderWords!, expectedOn: orderExpected!, by: orderMadeBy! },
})

/** What must be ordered before an instant, and nobody has noted an order that is still to come. */
const isDue = (before: Date) => sql<boolean>`forecast.order_by < ${before} and not exists (
  select from forecast_order where forecast_order.series_id = forecast.series_id
    and ended_at is null and expected_on >= current_date)`

/**
 * What runs out, that which must be ordered first at the top.
 * @param dueBefore only what must be ordered before then, and is not
 * @param most only the first of all
 */
export async function listForecasts(
  db: Db,
  verdicts: readonly Verdict[],
  { dueBefore, most }: { readonly dueBefore?: Date; readonly most?: number | undefined } = {},
): Promise<Listing[]> {
  const first = db
    .selectFrom('forecast')
    .innerJoin('series', 'series.id', 'forecast.seriesId')
    .innerJoin('gear', 'gear.id', 'series.gearId')
    .select('forecast.seriesId')
    .where('forecast.verdict', 'in', [...verdicts])
    .$if(dueBefore !== undefined, (query) => query.where(isDue(dueBefore!)))
    .orderBy(sql`forecast.order_by nulls last`)
    .orderBy('forecast.runOutAt')
    .orderBy('gear.name')
    .orderBy('forecast.seriesId')
    // As a number in the text: a plan for any number of rows is one for many.
    .$if(most !== undefined, (query) => query.limit(sql.lit(most!)))
  const ids = (await first.execute()).map(({ seriesId }) => seriesId)
  // What is long is read of those alone that are shown, and not of all that are put in their order.
  const rows = await listed(db, SHORT)
    .where(sql<boolean>`forecast.series_id = any(${ids}::int[])`)
    .execute()
  const bySeries = new Map(rows.map((row) => [row.seriesId, row]))
  // One that has gone meanwhile is not shown.
  return ids.flatMap((id) => {
    const row = bySeries.get(id)
    return row === undefined ? [] : [rowOf(row)]
  })
}

/** What runs out before an instant or has run out, and what is forecast of these series whenever it is. */
export async function listOutlooks(
  db: Db,
  { before, seriesIds }: { readonly before: Date; readonly seriesIds: readonly number[] },
): Promise<Listing[]> {
  const rows = await listed(db, SHORT)
    .where((eb) =>
      eb.or([
        eb.and([eb('forecast.verdict', '=', 'crosses'), eb('forecast.runOutAt', '<', before)]),
        eb('forecast.verdict', '=', 'over'),
        sql<boolean>`forecast.series_id = any(${[...seriesIds]}::int[])`,
      ]),
    )
    .orderBy('forecast.seriesId')
    .execute()
  return rows.map(rowOf)
}

/** A row of a list. */
export interface Listing extends Omit<ForecastRow, 'body'> {
  readonly body: Omit<KeptForecast, 'ahead' | 'seen' | 'others' | 'whatIf' | 'proofs'>
}

export async function findForecast(db: Db, seriesId: number): Promise<ForecastRow | undefined> {
  const row = await listed(db, WHOLE).where('forecast.seriesId', '=', seriesId).executeTakeFirst()
  return row === undefined ? undefined : rowOf(row)
}

/** Rooms and tags of what is forecast, to choose from: for each it is enough to find one thing. */
export async function listForecastPlaces(db: Db): Promise<{ rooms: string[]; tags: string[] }> {
  const { rows } = await sql<{ rooms: string[]; tags: string[] }>`
    select array(
      select name from room where (
        select true from rack join gear on gear.rack_id = rack.id
        join series on series.gear_id = gear.id join forecast on forecast.series_id = series.id
        where rack.room_id = room.id limit 1)
      order by name) as rooms,
    array(
      select distinct tag from gear, unnest(gear.tags) as tag where gear.tags <> '{}' and (
        select true from series join forecast on forecast.series_id = series.id
        where series.gear_id = gear.id limit 1)
      order by tag) as tags`.execute(db)
  return rows[0]!
}

/** How many there are of each verdict and topic. */
export async function countForecasts(db: Db) {
  return db
    .selectFrom('forecast')
    .select(['verdict', 'topic', (eb) => eb.fn.countAll<number>().as('count')])
    .groupBy(['verdict', 'topic'])
    .execute()
}

export interface MarkRow extends Mark {
  readonly by: string
}

/** What people have said of jumps, of all series or of one. */
export async function listMarks(db: Db, seriesId?: number): Promise<Map<number, MarkRow[]>> {
  const rows = await db
    .selectFrom('forecastMark')
    .select(['seriesId', 'at', 'isGrowth', 'madeBy'])
    .$if(seriesId !== undefined, (query) => query.where('seriesId', '=', seriesId!))
    .orderBy('madeAt')
    .execute()
  const marks = new Map<number, MarkRow[]>()
  for (const { seriesId: id, at, isGrowth, madeBy } of rows)
    marks.set(id, [
      ...(marks.get(id) ?? []),
      { atMs: at.getTime(), as: isGrowth ? 'growth' : 'one-off', by: madeBy },
    ])
  return marks
}

/** Somebody says what a jump was. What somebody else has said stays beside it; the newest counts. */
export async function writeMark(
  trx: Db,
  { seriesId, atMs, as }: { readonly seriesId: number } & Mark,
  who: string,
): Promise<void> {
  await trx
    .insertInto('forecastMark')
    .values({ seriesId, at: new Date(atMs), isGrowth: as === 'growth', madeBy: who })
    .onConflict((conflict) =>
      conflict.columns(['seriesId', 'at', 'madeBy']).doUpdateSet((eb) => ({
        isGrowth: eb.ref('excluded.isGrowth'),
        madeAt: sql<Date>`now()`,
      })),
    )
    .execute()
}

export interface NewOrder {
  readonly seriesId: number
  readonly words: string
  readonly expectedOn: string
}

/** Notes an order: until it should have come, nobody is reminded. */
export async function insertOrder(trx: Db, order: NewOrder, who: string): Promise<void> {
  await trx
    .insertInto('forecastOrder')
    .values({ ...order, madeBy: who })
    .execute()
}

/** @returns whether it was there */
export async function endOrder(trx: Db, id: number, who: string): Promise<boolean> {
  const ended = await trx
    .updateTable('forecastOrder')
    .set({ endedAt: new Date() })
    .where('id', '=', id)
    .where('endedAt', 'is', null)
    .returning('words')
    .executeTakeFirst()
  if (ended !== undefined) await recordChange(trx, who, `took back the noted order “${ended.words}”`)
  return ended !== undefined
}

/** The series of another measure of the same part, or of the same gear as a whole. */
export async function seriesBeside(db: Db, seriesId: number, measure: MeasureKey): Promise<number | null> {
  const row = await db
    .selectFrom('series as own')
    .innerJoin('series as other', (join) =>
      join
        .onRef('other.gearId', '=', 'own.gearId')
        .on(sql<boolean>`other.part_id is not distinct from own.part_id`)
        .on('other.measure', '=', measure),
    )
    .select('other.id')
    .where('own.id', '=', seriesId)
    .executeTakeFirst()
  return row?.id ?? null
}

/** How many things must be ordered before an instant, and no order is noted. */
export async function countDue(db: Db, before: Date): Promise<number> {
  const row = await db
    .selectFrom('forecast')
    .select((eb) => eb.fn.countAll<number>().as('count'))
    .where('verdict', 'in', ['crosses', 'over'])
    .where(isDue(before))
    .executeTakeFirstOrThrow()
  return Number(row.count)
}

/** How many things run out before an instant. */
export async function countRunOut(db: Db, before: Date): Promise<number> {
  const row = await db
    .selectFrom('forecast')
    .select((eb) => eb.fn.countAll<number>().as('count'))
    .where('runOutAt', '<', before)
    .where('verdict', 'in', ['crosses', 'over'])
    .executeTakeFirstOrThrow()
  return Number(row.count)
}
