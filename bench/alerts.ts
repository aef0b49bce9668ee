import { sql } from 'kysely'
import { countAlerts, followOnsOf, listAlerts, repeatsOf } from '#db/alerts'
import { makeSources, openBenchCluster } from './store/cluster.ts'
import { report, spreadOf, timed } from './measure.ts'

// The list of alerts over a history of 50,000: what its screen asks of the database.
const ALERTS = 50_000
const DAY_MS = 86_400_000

const cluster = await openBenchCluster()
try {
  const { db } = cluster
  const sources = await makeSources(db, 20, 100)
  const seriesIds = sources.flatMap(({ layout }) => layout.seriesIds)
  await sql`
    insert into alert (rule_key, series_id, gear_id, subject, measure, severity, title, reason, since_at, opened_at, cleared_at, cleared_reason)
    select 'rule-' || n % 40, s.id, s.gear_id, 'series ' || s.id, 'hw.temperature',
      case when n % 5 = 0 then 'critical' else 'warning' end,
      'Sensor ' || n || ' in petrel-' || n % 190 || ': temperature 41 °C', '41.0 °C, above the line of 40.0 °C.',
      now() - n * interval '10 min', now() - n * interval '10 min',
      case when n > 200 then now() - n * interval '10 min' + interval '7 min' end, case when n > 200 then 'Back.' end
    from generate_series(1, ${ALERTS}::int) n
    join series s on s.id = (${seriesIds}::int[])[1 + n % ${seriesIds.length}::int]`.execute(db)
  await sql`update alert set cause_id = id - 1 where id % 7 = 0`.execute(db)
  await sql`analyze alert`.execute(db)
  const nowMs = Date.now()
  const page = async (state: 'open' | 'all', words: readonly string[], days: number): Promise<void> => {
    const fromMs = nowMs - days * DAY_MS
    const [rows] = await Promise.all([
      listAlerts(
        db,
        { state, severity: null, words, ruleKey: null, gearId: null, fromMs, toMs: nowMs },
        null,
        101,
      ),
      countAlerts(db, fromMs),
    ])
    const ids = rows.map(({ id }) => id)
    await Promise.all([repeatsOf(db, ids, fromMs), followOnsOf(db, ids)])
  }
  const verdict = (what: string, measured: readonly number[]) => {
    const { median, most } = spreadOf(measured)
    return {
      what,
      measured: `median ${median.toFixed(0)} ms, most ${most.toFixed(0)} ms`,
      limit: 'without delay: median < 200 ms',
      isMet: median < 200,
    }
  }
  await page('open', [], 1)
  report(`The list of alerts, ${ALERTS} of history`, [
    verdict('those that are open', await timed(20, () => page('open', [], 1))),
    verdict('all of a year', await timed(20, () => page('all', [], 365))),
    verdict('words over a year', await timed(20, () => page('all', ['petrel-77', 'temperature'], 365))),
    verdict('words that nothing has', await timed(20, () => page('all', ['nowhere'], 365))),
  ])
} finally {
  await cluster.close()
}
