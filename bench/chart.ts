import { chromium } from '@playwright/test'
import { connect, openPool } from '#db/platform'
import { listNamedSeries, mergeReadings } from '#db/readings'
import { openDemo } from './installation.ts'
import { report, spreadOf } from './measure.ts'
import { mixedSeries } from './store/mix.ts'

// A year's chart of 525,600 readings, 2,000 pixels, from the server's route to arrays in the browser.
const LIMIT_MS = 120
const MINUTES = 365 * 1440

const demo = await openDemo()
const db = connect(openPool(demo.databaseUrl, 2))
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium-headless-shell',
  args: ['--no-sandbox', '--disable-gpu'],
})
try {
  const series = (await listNamedSeries(db)).find(
    (each) => each.gear === 'petrel-06' && each.measure === 'hw.power',
  )!
  const { gearId } = await db
    .selectFrom('series')
    .select('gearId')
    .where('id', '=', series.id)
    .executeTakeFirstOrThrow()
  const endMs = Math.floor(Date.now() / 86_400_000) * 86_400_000 - 2 * 86_400_000
  const [maker] = mixedSeries(3).slice(2)
  const curve = {
    times: Float64Array.from({ length: MINUTES }, (_, minute) => endMs - (MINUTES - minute) * 60_000),
    values: Float64Array.from({ length: MINUTES }, (_, minute) => maker!(minute)),
  }
  await mergeReadings(db, series, curve)
  const page = await (await browser.newContext()).newPage()
  await page.goto(`${demo.url}/sign-in`)
  await page.getByLabel('Mail address').fill('cleo@kittiwake.example')
  await page.getByLabel('Password').fill('kittiwake-demo')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await page.waitForURL(`${demo.url}/`)
  const fetchTimes = async (fromMs: number): Promise<{ ms: number[]; points: number; madeOf: string }> =>
    page.evaluate(
      async ([path]) => {
        const ms: number[] = []
        let [points, madeOf] = [0, '']
        for (let count = 0; count < 35; count += 1) {
          const startedMs = performance.now()
          const answer = (await (await fetch(path!)).json()) as {
            charts: { madeOf: string; curves: { times: number[]; values: number[] }[] }[]
          }
          const [drawn] = answer.charts[0]!.curves
          const arrays = [Float64Array.from(drawn!.times), Float64Array.from(drawn!.values)]
          ms.push(performance.now() - startedMs)
          points = arrays[1]!.length
          madeOf = answer.charts[0]!.madeOf
        }
        return { ms: ms.slice(5), points, madeOf }
      },
      [`/gear/${gearId}/curves?r=${series.id}&from=${fromMs}&to=${endMs}&px=2000`],
    )
  const verdicts = []
  for (const [what, days] of [
    ['a year, 525,600 readings', 365],
    ['a month, 43,200 readings', 30],
  ] as const) {
    const { ms, points, madeOf } = await fetchTimes(endMs - days * 86_400_000)
    const { median, p95 } = spreadOf(ms)
    verdicts.push({
      what,
      measured: `median ${median.toFixed(0)} ms, 95th percentile ${p95.toFixed(0)} ms, ${points} points made of ${madeOf}`,
      limit: `≤ ${LIMIT_MS} ms`,
      isMet: median <= LIMIT_MS && points > 1000,
    })
  }
  report('Charts, from the route to arrays in the browser', verdicts)
} finally {
  await browser.close()
  await db.destroy()
  await demo.close()
}
