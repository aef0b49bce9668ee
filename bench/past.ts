// What looking back takes on the server: curves, a heat map, lists over a line, quiet hours.
// `node --import tsx bench/past.ts [GEAR]`: by default 2,000 servers, 30 days of a reading every five minutes.
import type { GearFinding } from '#core/gear'
import { quietHours } from '#core/past'
import { HOUR_MS, NO_HOURS } from '#core/readings'
import { storeFindings } from '#db/gear'
import type { Db } from '#db/platform'
import { ensurePartitions, hoursOfMany, percentiles, sealPast } from '#db/readings'
import { insertSource } from '#db/sources'
import { uniform } from '../core/forecast/random.ts'
import { loadOver } from '../web/server/past/over.ts'
import { loadPast } from '../web/server/past/past.ts'
import { Present } from '../web/server/platform/present.ts'
import { report, spreadOf, timed, type Verdict } from './measure.ts'
import { openBenchCluster } from './store/cluster.ts'

const DAY_MS = 86_400_000
const NOW = Math.floor(Date.now() / DAY_MS) * DAY_MS
const TODAY = NOW / DAY_MS
const STEP_MS = 300_000
const PERIOD_DAYS = 30
const COUNT = Number(process.argv[2] ?? 2000)
const A_SOURCE = 100
/** So many of them go back eight weeks, for the hours of a week. */
const LONG = 20
const TIMES = 7

const server = (index: number): GearFinding => ({
  key: `server-${index}`,
  kind: 'server',
  name: `server-${String(index).padStart(4, '0')}`,
  identities: [{ kind: 'serial', value: `B-${index}` }],
  facts: { cluster: `cluster-${Math.floor(index / 500)}` },
  parts: [],
})

async function makeServers(db: Db): Promise<number[]> {
  await ensurePartitions(db, NOW - DAY_MS, NOW + 2 * DAY_MS)
  const next = uniform(20_261_129)
  const all: number[] = []
  for (let first = 0; first < COUNT; first += A_SOURCE) {
    const sourceId = await insertSource(db, {
      name: `generated ${first}`,
      protocol: 'otlp',
      address: 'generated',
      settings: {},
      intervalSeconds: STEP_MS / 1000,
      credentialId: null,
      token: `rr_bench_generated_source_${first}`,
    })
    const gear = Array.from({ length: Math.min(A_SOURCE, COUNT - first) }, (_, index) =>
      server(first + index),
    )
    const readings = gear.map(({ key }) => ({
      gear: key,
      part: null,
      measure: 'system.cpu.utilization' as const,
      value: 0.2,
    }))
    const { placement } = await db
      .transaction()
      .execute((trx) =>
        storeFindings(trx, { sourceId, atMs: NOW + 1000, findings: { gear, links: [], readings } }, null),
      )
    const ids = [...placement.layout.seriesIds]
    await layDown(db, sourceId, ids, first < LONG ? 56 : 30, next)
    all.push(...ids)
  }
  return all
}

/** Loads that differ from server to server, with a bump every six hours and a little noise. */
async function layDown(
  db: Db,
  sourceId: number,
  ids: readonly number[],
  days: number,
  next: () => number,
): Promise<void> {
  const loads = ids.map(() => 0.05 + 0.75 * next() ** 2)
  for (let day = TODAY - days; day < TODAY;) {
    const until = Math.min(TODAY, (Math.floor(day / PERIOD_DAYS) + 1) * PERIOD_DAYS)
    const times = Float64Array.from(
      { length: ((until - day) * DAY_MS) / STEP_MS },
      (_, step) => day * DAY_MS + step * STEP_MS,
    )
    const curves = new Map(
      ids.map((id, at) => [
        id,
        {
          times,
          values: times.map((ms) => {
            const hour = (ms % (6 * HOUR_MS)) / HOUR_MS
            const bump = hour > 1 && hour < 2.5 ? 0.2 : 0
            return Math.round(1000 * Math.min(1, loads[at]! + bump + 0.03 * next())) / 1000
          }),
        },
      ]),
    )
    await sealPast(db, { sourceId, fromDay: day, days: until - day }, curves)
    day = until
  }
}

const month = `from=${NOW - 30 * DAY_MS}&to=${NOW}`
const urlOf = (query: string): URL => new URL(`http://bench.test/past?${query}&${month}`)

async function measure(what: string, limitMs: number, run: () => Promise<string>): Promise<Verdict> {
  let of = ''
  const { median, most } = spreadOf(
    await timed(TIMES, async () => {
      of = await run()
    }),
  )
  return {
    what: `${what} (${of})`,
    measured: `${median.toFixed(0)} ms, at most ${most.toFixed(0)} ms`,
    limit: `≤ ${limitMs} ms`,
    isMet: median <= limitMs,
  }
}

const cluster = await openBenchCluster()
try {
  const { db } = cluster
  const began = performance.now()
  const ids = await makeServers(db)
  console.log(`${ids.length} series laid down in ${((performance.now() - began) / 1000).toFixed(0)} s`)
  const present = (): Present => new Present(db, NOW)
  const past = async (query: string): Promise<string> => {
    const { curves, view, panels } = await loadPast(present(), urlOf(query))
    return `${curves.length} as ${view}, ${Math.round(JSON.stringify(panels).length / 1024)} KiB`
  }
  const over = async (query: string): Promise<string> => {
    const { rows, of, exact } = await loadOver(present(), urlOf(query))
    return `${rows.length} of ${of}, ${exact ? 'exact' : 'by sketch'}`
  }
  const hundred = ids.slice(0, 100)
  const verdicts = [
    await measure('12 curves, 30 days, with their percentiles', 300, () =>
      past(`s=${ids.slice(0, 12).join(',')}`),
    ),
    await measure('500 series, 30 days, heat map and statistics', 1500, () =>
      past('p=system.cpu.utilization~cluster~cluster-0'),
    ),
    await measure('over the line, 30 days', 2000, () => over('m=system.cpu.utilization&at=80 %25&by=p95')),
    await measure('exact percentiles of 100 series, 30 days', 2000, async () => {
      const { from } = await percentiles(db, hundred, {
        fromMs: NOW - 30 * DAY_MS,
        toMs: NOW,
        ratios: [0.95],
        exact: true,
      })
      return from
    }),
    await measure(`quiet hours of ${LONG} series, 8 weeks`, 500, async () => {
      const some = ids.slice(0, LONG)
      const hours = await hoursOfMany(db, some, NOW - 56 * DAY_MS, NOW)
      const { windows, weeks } = quietHours(
        some.map((id) => ({ name: String(id), sort: 'processor', hours: hours.get(id) ?? NO_HOURS })),
        { lengthHours: 3, timeZone: 'Europe/Oslo' },
      )
      return `${windows.length} windows in ${weeks} weeks`
    }),
  ]
  report('Looking back, the share of the server', verdicts)
} finally {
  await cluster.close()
}
