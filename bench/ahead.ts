// What the job of forecasts takes, and how soon Ahead answers with 5,000 things.
// `node --import tsx bench/ahead.ts [THINGS] [--night]`: by default 500 things with a year of hours; with --night 5,000, and not
// the screen.
import type { GearFinding } from '#core/gear'
import { type KeptForecast } from '#core/forecast'
import { type NewForecast, writeForecasts } from '#db/forecast'
import { storeFindings } from '#db/gear'
import { connect, type Db, openPool } from '#db/platform'
import { ensurePartitions, sealPast } from '#db/readings'
import { makeForecasts } from '../collector/jobs/forecasting.ts'
import { normal, uniform } from '../core/forecast/random.ts'
import { familyNames, makeCase } from './forecast/families.ts'
import { openDemo, settled } from './installation.ts'
import { report, spreadOf, timed, type Verdict } from './measure.ts'
import { DEFAULT_RULES } from '#core/rules'
import { insertSource } from '#db/sources'
import { openBenchCluster } from './store/cluster.ts'

const DAY_MS = 86_400_000
const HOUR_MS = 3_600_000
const PERIOD_DAYS = 30
const YEAR = 365
const THINGS = 5000
const isNight = process.argv.includes('--night')
const count = Number(process.argv.slice(2).find((word) => /^\d+$/.test(word)) ?? (isNight ? THINGS : 500))
const NOW = Math.floor(Date.now() / DAY_MS) * DAY_MS

/** The line of stores as it ships: forecasts towards it are not made anew. */
const LINE = DEFAULT_RULES.flatMap((rule) =>
  rule.key === 'store-full' && rule.kind === 'level'
    ? rule.lines.filter(({ severity }) => severity === 'critical').map(({ at }) => at)
    : [],
)[0]!

const source = (db: Db, number: number): Promise<number> =>
  insertSource(db, {
    name: `generated ${number}`,
    protocol: 'otlp',
    address: 'generated',
    settings: {},
    intervalSeconds: 86_400,
    credentialId: null,
    token: `rr_bench_generated_source_${number}`,
  })

const store = (index: number): GearFinding => ({
  key: `store-${index}`,
  kind: 'store',
  name: `store-${String(index).padStart(4, '0')}`,
  identities: [{ kind: 'uuid', value: `00000000-0000-4000-8000-${String(index).padStart(12, '0')}` }],
  facts: {},
  parts: [],
})

/** Each store half full. @returns the series, in the order of the stores */
async function tell(db: Db, sourceId: number, gear: readonly GearFinding[]): Promise<readonly number[]> {
  const readings = gear.map(({ key }) => ({
    gear: key,
    part: null,
    measure: 'system.filesystem.utilization' as const,
    value: 0.5,
  }))
  const { placement } = await db
    .transaction()
    .execute((trx) =>
      storeFindings(trx, { sourceId, atMs: Date.now(), findings: { gear, links: [], readings } }, null),
    )
  return placement.layout.seriesIds
}

/** Stores by hundreds to a source, each with one series of how full it is. @returns the series, in their order */
async function makeStores(
  db: Db,
  sources: readonly number[],
): Promise<{ sourceId: number; ids: number[] }[]> {
  await ensurePartitions(db, NOW - DAY_MS, NOW + 2 * DAY_MS)
  const made: { sourceId: number; ids: number[] }[] = []
  const each = Math.ceil(count / sources.length)
  for (const [at, sourceId] of sources.entries()) {
    const gear = Array.from({ length: Math.min(each, count - at * each) }, (_, index) =>
      store(at * each + index),
    )
    made.push({ sourceId, ids: [...(await tell(db, sourceId, gear))] })
  }
  return made
}

/** A year of hours: the courses of the generator of histories, brought to a share of the line. */
async function layDown(db: Db, made: readonly { sourceId: number; ids: number[] }[]): Promise<void> {
  const next = uniform(20_261_128)
  const dice = { next, normal: normal(next) }
  const names = familyNames
  let index = 0
  for (const { sourceId, ids } of made) {
    const courses = ids.map((): Float64Array => {
      const daily = new Float64Array(YEAR)
      const { input } = makeCase(names[index++ % names.length]!, dice)
      const first = NOW - YEAR * DAY_MS
      let known = input.values[0] ?? 0
      let at = 0
      for (let day = 0; day < YEAR; day += 1) {
        const until = first + (day + 1) * DAY_MS + (input.nowMs - NOW)
        for (; at < input.atMs.length && input.atMs[at]! < until; at += 1)
          if (Number.isFinite(input.values[at]!)) known = input.values[at]!
        daily[day] = Math.min(1, Math.max(0, (0.85 * known) / Math.max(1e-9, Math.abs(input.line))))
      }
      return daily
    })
    const firstDay = NOW / DAY_MS - YEAR
    for (let day = firstDay; day < firstDay + YEAR;) {
      const until = Math.min(firstDay + YEAR, (Math.floor(day / PERIOD_DAYS) + 1) * PERIOD_DAYS)
      const times = Float64Array.from(
        { length: (until - day) * 24 },
        (_, hour) => day * DAY_MS + hour * HOUR_MS,
      )
      const curves = new Map(
        ids.map((id, at) => [
          id,
          {
            times,
            values: times.map((ms) => {
              const wave = 0.01 * Math.cos(((ms % DAY_MS) / DAY_MS) * 2 * Math.PI)
              return courses[at]![Math.floor(ms / DAY_MS) - firstDay]! * (0.99 + wave)
            }),
          },
        ]),
      )
      await sealPast(db, { sourceId, fromDay: day, days: until - day }, curves)
      day = until
    }
  }
}

async function theJob(): Promise<Verdict[]> {
  const cluster = await openBenchCluster()
  try {
    const sources: number[] = []
    for (let at = 0; at < count / 100; at += 1) sources.push(await source(cluster.db, at))
    await layDown(cluster.db, await makeStores(cluster.db, sources))
    const over = new AbortController().signal
    const pass = async (what: string, now: number): Promise<Verdict> => {
      const cpu = process.cpuUsage()
      const began = performance.now()
      const { made } = await makeForecasts(cluster.db, { now: () => now, over })
      const seconds = (performance.now() - began) / 1000
      const { user, system } = process.cpuUsage(cpu)
      const limit = isNight ? (480 * count) / THINGS : (60 * count) / 500
      return {
        what: `${what}, ${made} things with a year of hours`,
        measured: `${seconds.toFixed(1)} s, ${((user + system) / 1e6).toFixed(1)} s of its core; ${((1000 * seconds) / made).toFixed(0)} ms each`,
        limit: `≤ ${limit} s`,
        isMet: made === count && seconds <= limit,
      }
    }
    return [await pass('the first time', NOW), await pass('the next day', NOW + 22 * HOUR_MS)]
  } finally {
    await cluster.close()
  }
}

const TIMES = 40
const WARM = 8

/** A forecast as the job would leave it: with a year ahead by weeks, and a sentence. */
function madeUp(seriesId: number, index: number): NewForecast {
  const days = 20 + (index % 700)
  const weeks = Array.from({ length: 105 }, (_, week) => 0.5 + week / 300)
  const runOutMs = NOW + days * DAY_MS
  const body: KeptForecast = {
    kind: 'space',
    measure: 'system.filesystem.utilization',
    line: { at: LINE, words: `critical ${Math.round(LINE * 100)} %` },
    given: LINE,
    direction: 'up',
    leadDays: 14,
    earlyMs: runOutMs - 5 * DAY_MS,
    lateMs: runOutMs + 9 * DAY_MS,
    sentence: `Grows 38 GB a day since 3 Oct; a copy of 4.1 TB on 12 Sep counts as a step (${index}).`,
    seen: [],
    ahead: { everyDays: 7, p10: weeks, p50: weeks, p90: weeks },
    others: [],
    whatIf: [],
    proofs: [],
    days: 365,
    marks: '',
  }
  return {
    seriesId,
    madeMs: Date.now(),
    topic: 'Space',
    verdict: 'crosses',
    runOutMs,
    orderByMs: runOutMs - 14 * DAY_MS,
    body,
  }
}

async function theScreen(): Promise<Verdict[]> {
  const demo = await openDemo({ RACK_DEMO_DAYS: '2' })
  const db = connect(openPool(demo.databaseUrl, 2))
  try {
    const sourceId = await source(db, 0)
    const gear = Array.from({ length: THINGS }, (_, index) => store(index))
    const rows = (await tell(db, sourceId, gear)).map(madeUp)
    for (let at = 0; at < rows.length; at += 500) await writeForecasts(db, rows.slice(at, at + 500))
    await settled(db)
    const ask = async (path: string): Promise<number[]> =>
      (
        await timed(TIMES + WARM, async () => {
          const reply = await demo.get(path)
          const text = await reply.text()
          if (reply.status !== 200 || text.length < 5000) throw new Error(`${path} answered ${reply.status}`)
        })
      ).slice(WARM)
    const verdictOf = async (what: string, path: string, limit: number): Promise<Verdict> => {
      const { median, p95 } = spreadOf(await ask(path))
      return {
        what,
        measured: `median ${median.toFixed(0)} ms, 95th percentile ${p95.toFixed(0)} ms`,
        limit: `95th percentile ≤ ${limit} ms`,
        isMet: p95 <= limit,
      }
    }
    return [
      await verdictOf(`Ahead with ${THINGS} things`, '/ahead', 100),
      await verdictOf('all its rows, when it is open', '/ahead/rows', 1000),
    ]
  } finally {
    await db.destroy()
    await demo.close()
  }
}

// Each as soon as it is known: the second needs a demo of its own, which takes its time to come up.
report('The job of forecasts', await theJob())
if (!isNight) report('The screen of what is ahead', await theScreen())
