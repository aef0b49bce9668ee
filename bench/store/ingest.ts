import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { sql } from 'kysely'
import { ensurePartitions, insertMoments, latestReadings } from '#db/readings'
import { spreadOf, timed, type Verdict } from '../measure.ts'
import { type BenchCluster, makeSources, type MadeSource, walPosition } from './cluster.ts'
import { mixedSeries } from './mix.ts'

const MINUTE = 60_000
const START = Date.UTC(2026, 0, 1)
const SOURCES = 100
const SERIES = 100

const rowsTable = (name: string, isKeyed: boolean): string =>
  `drop table if exists ${name}; create table ${name} (series_id int, ts timestamptz, value float8${isKeyed ? ', primary key (series_id, ts)' : ''});`

/** The moments of one cycle: every series of every source at one minute. */
function cycleOf(
  sources: readonly MadeSource[],
  makers: readonly ((minute: number) => number)[],
  minute: number,
) {
  let next = 0
  return sources.map(({ sourceId, layout }) => ({
    sourceId,
    atMs: START + minute * MINUTE,
    layout,
    values: layout.seriesIds.map(() => makers[next++]!(minute)),
  }))
}
type Cycle = ReturnType<typeof cycleOf>

function copyFile(path: string, cycle: Cycle): void {
  const lines = cycle.flatMap(({ atMs, layout, values }) => {
    const ts = new Date(atMs).toISOString()
    return values.map((value, slot) => `${layout.seriesIds[slot]}\t${ts}\t${value}`)
  })
  writeFileSync(path, lines.join('\n') + '\n')
}

/** Durable ingest of 10,000 series a cycle against rows, one commit a cycle in each; latest values on the way. */
export async function benchIngest(bench: BenchCluster): Promise<Verdict[]> {
  const { db, psql, scratch } = bench
  const CYCLES = 120
  const sources = await makeSources(db, SOURCES, SERIES)
  const makers = mixedSeries(SOURCES * SERIES)
  const cycles = Array.from({ length: CYCLES }, (_, minute) => cycleOf(sources, makers, minute))
  await ensurePartitions(db, START, START + CYCLES * MINUTE)
  const store = (cycle: Cycle): Promise<unknown> =>
    db.transaction().execute((trx) => insertMoments(trx, cycle))

  await store(cycles[0]!)
  const ours = await timed(CYCLES - 1, (index) => store(cycles[index + 1]!))
  const files = cycles.map((cycle, minute) => {
    const path = join(scratch, `cycle-${minute}.tsv`)
    copyFile(path, cycle)
    return path
  })
  const copy = (table: string): string =>
    files
      .slice(1)
      .map((path) => `\\copy ${table} from '${path}'`)
      .join('\n')
  psql(rowsTable('keyed', true) + rowsTable('heap', false))
  psql(`\\copy keyed from '${files[0]}'`)
  const keyedMs = psql(copy('keyed'))
  const heapMs = psql(copy('heap'))
  const oursMs = ours.reduce((total, ms) => total + ms, 0)

  const one = await db
    .transaction()
    .execute((trx) => sql`create table single (at int); `.execute(trx))
    .then(() => timed(300, (index) => sql`insert into single values (${index})`.execute(db)))
  const batch = spreadOf(ours).median
  const single = spreadOf(one.slice(20)).median

  psql('vacuum analyze keyed; vacuum analyze hot;')
  const latest = spreadOf(
    (
      await timed(60, async () => {
        let count = 0
        const all = await latestReadings(db)
        all.forEach((_seriesId, _atMs, value) => {
          if (!Number.isNaN(value)) count += 1
        })
        if (count !== SOURCES * SERIES) throw new Error(`${count} latest readings`)
      })
    ).slice(10),
  ).median
  const distinct = spreadOf(
    await timed(3, () =>
      sql`select distinct on (series_id) series_id, ts, value from keyed order by series_id, ts desc`.execute(
        db,
      ),
    ),
  ).median
  return [
    {
      what: 'durable ingest, against rows with a primary key',
      measured: `${(keyedMs / oursMs).toFixed(1)} × (${Math.round(((CYCLES - 1) * SOURCES * SERIES) / oursMs)}k readings/s against ${Math.round(((CYCLES - 1) * SOURCES * SERIES) / keyedMs)}k)`,
      limit: '≥ 6 ×',
      isMet: keyedMs / oursMs >= 6,
    },
    {
      what: 'durable ingest, against a bare heap',
      measured: `${(heapMs / oursMs).toFixed(1)} ×`,
      limit: '≥ 2.5 ×',
      isMet: heapMs / oursMs >= 2.5,
    },
    {
      what: 'commit of 10,000 readings, against one row',
      measured: `${(batch / single).toFixed(1)} × (medians ${batch.toFixed(1)} ms, ${single.toFixed(2)} ms)`,
      limit: '≤ 12 ×',
      isMet: batch / single <= 12,
    },
    {
      what: 'latest of 10,000 series, against DISTINCT ON over two hours of rows',
      measured: `${(distinct / latest).toFixed(0)} × (${latest.toFixed(1)} ms against ${distinct.toFixed(0)} ms; each of the 10,000 looked at in Node)`,
      limit: '≥ 500 ×',
      isMet: distinct / latest >= 500,
    },
  ]
}

/** Write-ahead log over a day of 2,000 series, with a checkpoint every 15 cycles, ours and rows the same. */
export async function benchWal(bench: BenchCluster): Promise<Verdict[]> {
  const { db, psql, scratch } = bench
  const sources = await makeSources(db, 20, 100)
  const makers = mixedSeries(2000)
  const CYCLES = 1440
  await ensurePartitions(db, START, START + CYCLES * MINUTE)
  const cycles = Array.from({ length: CYCLES }, (_, minute) => cycleOf(sources, makers, minute))
  const run = async (write: (minute: number) => Promise<unknown> | unknown): Promise<number> => {
    await sql`checkpoint`.execute(db)
    const from = await walPosition(db)
    for (let minute = 0; minute < CYCLES; minute += 1) {
      await write(minute)
      if (minute % 15 === 14) await sql`checkpoint`.execute(db)
    }
    return Number((await walPosition(db)) - from) / (CYCLES * 2000)
  }
  const ours = await run((minute) => db.transaction().execute((trx) => insertMoments(trx, cycles[minute]!)))
  psql(rowsTable('keyed_day', true))
  const path = join(scratch, 'fifteen.tsv')
  const rows = await run((minute) => {
    if (minute % 15 !== 14) return
    copyFile(path, cycles.slice(minute - 14, minute + 1).flat())
    // Fifteen cycles in one copy: kinder to the rows than a commit a cycle.
    psql(`\\copy keyed_day from '${path}'`)
  })
  return [
    {
      what: 'write-ahead log a reading over a day, a checkpoint every 15 cycles',
      measured: `${ours.toFixed(1)} B, 1/${(rows / ours).toFixed(0)} of rows with a primary key (${rows.toFixed(0)} B)`,
      limit: '≤ 15 B and ≤ 1/15',
      isMet: ours <= 15 && rows / ours >= 15,
    },
  ]
}
