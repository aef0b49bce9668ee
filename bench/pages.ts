import { setTimeout as pause } from 'node:timers/promises'
import { connect, openPool } from '#db/platform'
import { fill } from './filling.ts'
import { type Installation, openDemo, settled } from './installation.ts'
import { report, spreadOf, timed, type Verdict } from './measure.ts'

// How soon the server answers the main pages while the collector is at work: with the demo and the whole of its past, then
// with 2,000 gear and 40,000 series.
const TIMES = 55
const WARM = 10
const PAGES = {
  Watch: '/',
  'gear page': '/gear/3',
  alerts: '/alerts',
  rules: '/alerts/rules',
  rooms: '/rooms',
  gear: '/gear',
  inventory: '/gear/inventory',
  sources: '/sources',
  space: '/settings/space',
}
const MANY = { gear: 2000, series: 40_000 }
const A_RACK = 20

async function measure(demo: Installation, limitMs: number): Promise<Verdict[]> {
  const verdicts: Verdict[] = []
  for (const [name, path] of Object.entries(PAGES)) {
    const measured = await timed(TIMES + WARM, async () => {
      const reply = await demo.get(path)
      const text = await reply.text()
      if (reply.status !== 200 || !text.includes('<h1')) throw new Error(`${path} answered ${reply.status}`)
    })
    const { median, p95, most } = spreadOf(measured.slice(WARM))
    verdicts.push({
      what: name,
      measured: `median ${median.toFixed(0)} ms, 95th percentile ${p95.toFixed(0)} ms, most ${most.toFixed(0)} ms; ${(p95 / limitMs).toFixed(2)} of the limit`,
      limit: `95th percentile ≤ ${limitMs} ms`,
      isMet: p95 <= limitMs,
    })
  }
  return verdicts
}

// A demo with another past than a year: `RACK_DEMO_DAYS`, as everywhere.
const demo = await openDemo()
const db = connect(openPool(demo.databaseUrl, 2))
try {
  await settled(db)
  report(`Pages of the demo, ${TIMES} requests each`, await measure(demo, 100))

  const counted = async (table: 'gear' | 'series'): Promise<number> =>
    Number(
      (
        await db
          .selectFrom(table)
          .select((eb) => eb.fn.countAll().as('count'))
          .executeTakeFirstOrThrow()
      ).count,
    )
  const lacking = MANY.gear - (await counted('gear'))
  const seriesEach = Math.ceil((MANY.series - (await counted('series'))) / lacking)
  await fill(db, { racks: Math.ceil(lacking / A_RACK), aRack: A_RACK, gearASource: 1, seriesEach })
  await pause(30_000)
  const size = `${await counted('gear')} gear and ${await counted('series')} series`
  report(`Pages with ${size}, ${TIMES} requests each`, await measure(demo, 150))
} finally {
  await db.destroy()
  await demo.close()
}
