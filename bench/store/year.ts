import { sql } from 'kysely'
import {
  compactPeriod,
  ensurePartitions,
  insertMoments,
  percentiles,
  periodsToCompact,
  readSpan,
  sealDay,
} from '#db/readings'
import { SKETCH_ERROR } from '#core/readings'
import { spreadOf, timed, type Verdict } from '../measure.ts'
import { type BenchCluster, makeSources, openClient } from './cluster.ts'
import { mixedSeries } from './mix.ts'

const DAY = 86_400_000
const FIRST_DAY = 20_430 // a multiple of 30
const TOGETHER = 60
const SOURCE_SERIES = 100
const WARM_UP = 40

export interface YearOptions {
  readonly days: number
  readonly series: number
}

/**
 * A year of minutes through the store's own path (rows, sealing, putting together), then what it takes on disk and what
 * questions cost, against as many readings as rows with a primary key, filled in the order of arrival.
 */
export async function benchYear(bench: BenchCluster, options: YearOptions): Promise<Verdict[]> {
  const { db } = bench
  await sql`create table if not exists bench_year (days int, series int)`.execute(db)
  const { rows: filled } = await sql<YearOptions>`select days, series from bench_year`.execute(db)
  if (filled[0] === undefined) {
    await Promise.all([fillStore(bench, options), fillRows(bench, options)])
    await sql`insert into bench_year values (${options.days}, ${options.series})`.execute(db)
  } else if (filled[0].days !== options.days || filled[0].series !== options.series)
    throw new Error(`the folder holds ${filled[0].days} days of ${filled[0].series} series; give another`)
  return [...(await diskVerdicts(bench, options)), ...(await askYear(bench, options))]
}

async function fillRows({ psqlRows }: BenchCluster, { days, series }: YearOptions): Promise<void> {
  const startedMs = Date.now()
  // Unlogged, which fills faster and is read the same.
  await psqlRows(`create unlogged table year_rows (series_id int, ts timestamptz, value float8, primary key (series_id, ts));
    insert into year_rows select s, to_timestamp(${FIRST_DAY * 86_400} + m * 60), round((40 + 15 * sin(m / 230.0) + random() * 8)::numeric, 1)::float8
    from generate_series(0, ${days * 1440 - 1}) m cross join generate_series(1, ${series}) s;
    vacuum analyze year_rows; checkpoint;`)
  console.log(`    rows stored, ${Math.round((Date.now() - startedMs) / 1000)} s`)
}

async function fillStore({ db }: BenchCluster, { days, series }: YearOptions): Promise<void> {
  const sources = await makeSources(db, Math.ceil(series / SOURCE_SERIES), Math.min(SOURCE_SERIES, series))
  const makers = mixedSeries(series)
  const startedMs = Date.now()
  for (let day = 0; day < days; day += 1) {
    const fromMs = (FIRST_DAY + day) * DAY
    await ensurePartitions(db, fromMs, fromMs)
    for (let minute = 0; minute < 1440; minute += TOGETHER) {
      const moments = Array.from({ length: TOGETHER }, (_, index) => {
        const at = day * 1440 + minute + index
        let next = 0
        return sources.map(({ sourceId, layout }) => ({
          sourceId,
          atMs: FIRST_DAY * DAY + at * 60_000,
          layout,
          values: layout.seriesIds.map(() => makers[next++]!(at)),
        }))
      }).flat()
      await db.transaction().execute((trx) => insertMoments(trx, moments))
    }
    for (const { sourceId } of sources) await sealDay(db, { sourceId, day: FIRST_DAY + day })
    const name = `hot_${new Date(fromMs).toISOString().slice(0, 10).replaceAll('-', '_')}`
    await sql`drop table ${sql.id(name)}`.execute(db)
    if (day % 30 === 29) {
      for (const period of await periodsToCompact(db, FIRST_DAY + day + 1, 1_000_000))
        await compactPeriod(db, period)
      await sql`vacuum chunk`.execute(db)
      await sql`vacuum summary`.execute(db)
      console.log(`    ${day + 1} days stored, ${Math.round((Date.now() - startedMs) / 1000)} s`)
    }
  }
  await sql`vacuum analyze chunk`.execute(db)
  await sql`vacuum analyze summary`.execute(db)
}

async function diskVerdicts({ db }: BenchCluster, { days, series }: YearOptions): Promise<Verdict[]> {
  const { rows } = await sql<{ readings: string; chunk: string; summary: string }>`
    select (select sum(readings) from chunk)::text as readings, pg_total_relation_size('chunk')::text as chunk,
      pg_total_relation_size('summary')::text as summary`.execute(db)
  const [readings, chunk, summary] = [
    Number(rows[0]!.readings),
    Number(rows[0]!.chunk),
    Number(rows[0]!.summary),
  ]
  if (readings !== days * 1440 * series)
    throw new Error(`${readings} readings are stored, not ${days * 1440 * series}`)
  return [
    {
      what: `disk a reading once sealed, ${series} series × ${days} days`,
      measured: `${(chunk / readings).toFixed(3)} B (everything of the table, its index and free space)`,
      limit: '≤ 1.10 B',
      isMet: chunk / readings <= 1.1,
    },
    {
      what: 'with summaries of hours and sketches of days',
      measured: `${((chunk + summary) / readings).toFixed(3)} B`,
      limit: '≤ 1.30 B',
      isMet: (chunk + summary) / readings <= 1.3,
    },
  ]
}

async function askYear(
  { db, chill, rowsUrl }: BenchCluster,
  { days, series }: YearOptions,
): Promise<Verdict[]> {
  const ids = (
    await sql<{ id: number }>`select distinct series_id as id from chunk order by 1`.execute(db)
  ).rows.map((row) => row.id)
  const endMs = (FIRST_DAY + days) * DAY - 1
  const readOurs = (index: number) => readSpan(db, ids[index % ids.length]!, FIRST_DAY * DAY, endMs)
  const readRows = async (index: number) => {
    const client = await openClient(rowsUrl)
    const found = await client.query<{ ts: Date; value: number }>(
      'select ts, value from year_rows where series_id = $1 order by ts',
      [1 + (index % series)],
    )
    const times = Float64Array.from(found.rows, (row) => row.ts.getTime())
    const values = Float64Array.from(found.rows, (row) => row.value)
    await client.end()
    if (times.length !== days * 1440 || values.length !== times.length) throw new Error('rows are missing')
  }
  // Both ways until the engine has compiled what runs often.
  await timed(WARM_UP, () => readOurs(0))
  const warmOurs = spreadOf(await timed(15, () => readOurs(0))).median
  await timed(3, () => readRows(0))
  const warmRows = spreadOf(await timed(3, () => readRows(0))).median
  console.log(`    warm: ${warmOurs.toFixed(0)} ms against ${warmRows.toFixed(0)} ms`)
  const coldOurs: number[] = []
  const coldRows: number[] = []
  let isCold = true
  for (let round = 1; round <= 3; round += 1) {
    isCold = chill() && isCold
    // The pool notices that its connections are gone, and makes new ones.
    await new Promise((resolve) => setTimeout(resolve, 1000))
    await sql`select 1`.execute(db)
    coldOurs.push(...(await timed(1, () => readOurs(round * 7))))
    isCold = chill() && isCold
    coldRows.push(...(await timed(1, () => readRows(round * 7))))
  }
  const [cold, coldOf] = [spreadOf(coldOurs).median, spreadOf(coldRows).median]
  const verdicts: Verdict[] = [
    {
      what: 'a year of one series to typed arrays, warm, against rows',
      measured: `${(warmRows / warmOurs).toFixed(0)} × (${warmOurs.toFixed(0)} ms against ${warmRows.toFixed(0)} ms, ${series} series of rows interleaved)`,
      limit: '≥ 100 ×',
      isMet: warmRows / warmOurs >= 100,
    },
    {
      what: `the same ${isCold ? 'cold' : 'after a restart; the system kept its page cache'}`,
      measured: `${(coldOf / cold).toFixed(0)} × (${cold.toFixed(0)} ms against ${coldOf.toFixed(0)} ms)`,
      limit: '≥ 30 ×',
      isMet: coldOf / cold >= 30,
    },
  ]

  const span = { fromMs: endMs + 1 - 30 * DAY, toMs: endMs, ratios: [0.95] }
  const askExact = () => percentiles(db, ids, { ...span, exact: true })
  // As above, until the engine has compiled it.
  await timed(3, askExact)
  const exactMs = spreadOf(await timed(5, askExact)).median
  const sketchMs = spreadOf(await timed(9, () => percentiles(db, ids, { ...span, exact: false }))).median
  const client = await openClient(rowsUrl)
  const contMs = spreadOf(
    await timed(2, () =>
      client.query(
        'select series_id, percentile_cont(0.95) within group (order by value) from year_rows where ts between $1 and $2 group by series_id',
        [new Date(span.fromMs), new Date(span.toMs)],
      ),
    ),
  ).median
  await client.end()
  const [exact, sketch] = [await askExact(), await percentiles(db, ids, { ...span, exact: false })]
  const worst = Math.max(
    ...ids.map((id) => {
      const truth = exact.bySeries.get(id)![0]!
      return truth === 0 ? 0 : Math.abs(sketch.bySeries.get(id)![0]! - truth) / Math.abs(truth)
    }),
  )
  verdicts.push(
    {
      what: `95th percentile, ${series} series × 30 days, exact, against percentile_cont on rows`,
      measured: `${(contMs / exactMs).toFixed(0)} × (${exactMs.toFixed(0)} ms against ${contMs.toFixed(0)} ms)`,
      limit: '≥ 25 ×',
      isMet: contMs / exactMs >= 25,
    },
    {
      what: 'the same by sketch',
      measured: `${(contMs / sketchMs).toFixed(0)} × (${sketchMs.toFixed(0)} ms), at most ${(worst * 100).toFixed(2)} % off`,
      limit: `≥ 300 ×, ≤ ${SKETCH_ERROR * 100} % off`,
      isMet: contMs / sketchMs >= 300 && worst <= SKETCH_ERROR,
    },
  )
  return verdicts
}
