import { join } from 'node:path'
import type { Curve } from '#core/readings'
import {
  type Judge,
  judgeFor,
  type KeptRule,
  lasting,
  type LevelRule,
  ofLast,
  rulesInForce,
  type SeriesRule,
  type Standing,
  type Subject,
} from '#core/rules'
import type { Findings } from '#core/gear'
import type { Db } from '#db/platform'
import { ensurePartitions, readSpans, sealPast } from '#db/readings'
import { openKeyFile } from '#db/sources'
import { runMigrations } from 'graphile-worker'
import { Delivery, type Taken } from '../collector/intake/delivery.ts'
import { Judgement } from '../collector/judging/judgement.ts'
import { rehearse } from '../collector/judging/rehearse.ts'
import { Spool } from '../collector/intake/spool.ts'
import { AlertWriter } from '../collector/judging/alertWriter.ts'
import { Notifier } from '../collector/notify/notifier.ts'
import { makeSources, openBenchCluster } from './store/cluster.ts'
import { report, spreadOf } from './measure.ts'

// Judging by the core alone, a rehearsal over a month, and how long an alert takes from the reading to the database.

const MINUTE = 60_000
const DAY = 1440 * MINUTE

/** The same numbers in every run. */
function random(seed: number): () => number {
  let state = seed
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
    return state / 2 ** 32
  }
}

const level = (
  key: string,
  where: LevelRule['scope']['where'],
  rest: Partial<LevelRule> = {},
): LevelRule => ({
  kind: 'level',
  key,
  name: key,
  why: '',
  scope: { gearKind: null, partKind: null, where },
  of: { measure: 'hw.temperature', with: null },
  direction: 'above',
  lines: [
    { severity: 'warning', at: 27, back: 26 },
    { severity: 'critical', at: 32, back: 31 },
  ],
  persistence: ofLast(4, 6),
  ...rest,
})

function judging(): void {
  const SERIES = 20_000
  const RULES = 2000
  const ROUNDS = 150
  const kept: KeptRule[] = Array.from({ length: RULES }, (_, id) => ({
    id,
    isDefault: id === 0,
    isOn: true,
    rule: level(`rule-${id}`, id === 0 ? { kind: 'everywhere' } : { kind: 'tag', tag: `tag-${id}` }, {
      persistence: id % 3 === 0 ? lasting(5 * MINUTE) : ofLast(4, 6),
      direction: id % 5 === 4 ? 'below' : 'above',
      ...(id % 5 === 4 ? { lines: [{ severity: 'warning', at: 16, back: 17 }] } : {}),
    }),
  }))
  const next = random(7)
  const startedMs = performance.now()
  const judges = kept.map(({ rule }) => judgeFor(rule as SeriesRule))
  const posts: { judge: Judge; standing: Standing }[][] = Array.from({ length: SERIES }, (_, index) => {
    const subject: Subject = {
      measure: 'hw.temperature',
      gearKind: 'server',
      partKind: 'sensor',
      gearId: index,
      partId: index,
      tags: [`tag-${1 + (index % (RULES - 1))}`, `tag-${1 + ((index * 7) % (RULES - 1))}`],
      roomId: 1,
      rackId: 1,
      cluster: null,
      groupIds: [],
    }
    return rulesInForce(kept, subject).map((each) => {
      const judge = judges[each.kept.id]!
      return { judge, standing: judge.begin() }
    })
  })
  const settledMs = performance.now() - startedMs
  const inForce = posts.reduce((sum, each) => sum + each.length, 0)
  const values = Float64Array.from({ length: 100_000 }, () => 24 + 6 * (next() + next() - 1))
  let changes = 0
  const beganMs = performance.now()
  for (let round = 0; round < ROUNDS; round += 1)
    for (let index = 0; index < SERIES; index += 1)
      for (const { judge, standing } of posts[index]!)
        if (judge.take(standing, round * 10_000, values[(round * SERIES + index) % values.length]!))
          changes += 1
  const rate = (SERIES * ROUNDS) / ((performance.now() - beganMs) / 1000)
  report('Judging, by the core on one core', [
    {
      what: `${RULES} rules on ${SERIES} series (${inForce} in force, settled in ${settledMs.toFixed(0)} ms), ${changes} changes`,
      measured: `${(rate / 1e6).toFixed(2)} million readings/s`,
      limit: '≥ 0.5 million readings/s',
      isMet: rate >= 500_000,
    },
  ])
}

async function rehearsing(db: Db): Promise<void> {
  const SOURCES = 10
  const EACH = 100
  const nowMs = (Math.floor(Date.now() / DAY) + 0) * DAY
  const toDay = nowMs / DAY
  const sources = await makeSources(db, SOURCES, EACH)
  const next = random(11)
  for (const { sourceId, layout } of sources)
    for (let fromDay = toDay - 30; fromDay < toDay;) {
      const days = Math.min(toDay, (Math.floor(fromDay / 30) + 1) * 30) - fromDay
      const curves = new Map<number, Curve>(
        layout.seriesIds.map((id) => {
          let drift = 0
          const count = days * 1440
          const values = new Float64Array(count)
          for (let index = 0; index < count; index += 1) {
            drift = drift * 0.995 + (next() - 0.5) * 0.5
            values[index] = Math.round((22 + 3 * Math.sin((index / 1440) * 2 * Math.PI) + drift) * 10) / 10
          }
          return [
            id,
            {
              times: Float64Array.from({ length: count }, (_, index) => fromDay * DAY + index * MINUTE),
              values,
            },
          ]
        }),
      )
      await sealPast(db, { sourceId, fromDay, days }, curves)
      fromDay += days
    }
  const ids = sources.flatMap(({ layout }) => layout.seriesIds)
  const readMs = performance.now()
  for (let start = 0; start < ids.length; start += 25)
    await readSpans(db, ids.slice(start, start + 25), nowMs - 30 * DAY, nowMs)
  const fetchedMs = performance.now() - readMs
  const rule = level(
    'new',
    { kind: 'everywhere' },
    { scope: { gearKind: 'server', partKind: 'sensor', where: { kind: 'everywhere' } } },
  )
  const startedMs = performance.now()
  const result = await rehearse(db, { rule, insteadOf: null, days: 30, wished: 5 }, nowMs, () =>
    Promise.resolve(true),
  )
  const tookMs = performance.now() - startedMs
  report('Rehearsing a rule on the stored past', [
    {
      what: `${result.series} series, 30 days, ${(result.readings / 1e6).toFixed(1)} million readings, ${result.alerts} alerts, with a line for 5 a week`,
      measured: `${(tookMs / 1000).toFixed(1)} s (fetching and decoding alone ${(fetchedMs / 1000).toFixed(1)} s)`,
      limit: '< 10 s',
      isMet: tookMs < 10_000,
    },
  ])
}

async function delays(db: Db, scratch: string): Promise<void> {
  const SOURCES = 100
  const EACH = 100
  const ROUNDS = 12
  await ensurePartitions(db, Date.now() - DAY, Date.now() + DAY)
  const sources = await makeSources(db, SOURCES, 1)
  const spool = new Spool<Taken>(join(scratch, 'spool'), 1 << 30)
  await spool.open()
  const judgement = new Judgement(
    db,
    new AlertWriter(db, new Notifier(openKeyFile(join(scratch, 'secret.key')))),
  )
  const heardMs = new Map<string, number>()
  const judgedMs = new Map<string, number>()
  const delivery = new Delivery(db, spool, async (stored) => {
    await judgement.judgeMoment(stored)
    judgedMs.set(`${stored.taken.sourceId} ${stored.taken.atMs}`, performance.now())
  })
  const next = random(3)
  const names = Array.from({ length: EACH }, (_, index) => `sensor ${index}`)
  const found = (source: number, hot: number | null): Findings => ({
    gear: [
      {
        key: 'server',
        kind: 'server',
        name: `server ${source}`,
        identities: [{ kind: 'serial', value: `D-${source}` }],
        facts: {},
        parts: names.map((name) => ({ key: name, kind: 'fan', name, facts: {} })),
      },
    ],
    links: [],
    readings: names.map((part, index) => ({
      gear: 'server',
      part,
      measure: 'hw.status',
      value: index === hot ? 2 : 0,
    })),
  })
  const opened: { sourceId: number; atMs: number }[] = []
  for (let round = 0; round < ROUNDS; round += 1) {
    const beganMs = performance.now()
    await Promise.all(
      sources.map(async ({ sourceId }, index) => {
        await new Promise((resolve) => setTimeout(resolve, (index / SOURCES) * 10_000))
        const atMs = Math.round(Date.now())
        // Every tenth of them breaks in every round, each time in another part.
        const hot = next() < 0.1 ? Math.floor(next() * EACH) : null
        heardMs.set(`${sourceId} ${atMs}`, performance.now())
        if (round > 0 && hot !== null) opened.push({ sourceId, atMs })
        await delivery.take({ sourceId, atMs, heardAtMs: atMs, durationMs: 5, findings: found(index, hot) })
      }),
    )
    const left = 10_000 - (performance.now() - beganMs)
    if (left > 0) await new Promise((resolve) => setTimeout(resolve, left))
  }
  await delivery.close()
  await spool.close()
  const measured = opened.map(({ sourceId, atMs }) => {
    const key = `${sourceId} ${atMs}`
    return (judgedMs.get(key) ?? Infinity) - heardMs.get(key)!
  })
  const sorted = [...measured].sort((a, b) => a - b)
  const p99 = sorted[Math.ceil(0.99 * sorted.length) - 1] ?? Infinity
  const { rows } = await db
    .selectFrom('alert')
    .select((eb) => eb.fn.countAll<string>().as('count'))
    .execute()
    .then((all) => ({ rows: all }))
  const { median, most } = spreadOf(measured)
  report('From a reading to its alert in the database', [
    {
      what: `${SOURCES * EACH} series each 10 s, ${measured.length} moments that open some, ${rows[0]?.count} alerts`,
      measured: `median ${median.toFixed(0)} ms, 99th percentile ${p99.toFixed(0)} ms, most ${most.toFixed(0)} ms`,
      limit: '99th percentile < 2 s',
      isMet: p99 < 2000,
    },
  ])
}

judging()
const cluster = await openBenchCluster()
try {
  await runMigrations({ connectionString: cluster.url })
  await rehearsing(cluster.db)
  if (!process.argv.includes('--short')) await delays(cluster.db, cluster.scratch)
} finally {
  await cluster.close()
}
