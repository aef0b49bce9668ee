// The share of the browser in Past: from a click to what is drawn, and long tasks while panning and pointing.
// `node --import tsx bench/pastScreen.ts`: the demo with 30 days of its past. Needs Debian's chromium-headless-shell.
import { setTimeout as pause } from 'node:timers/promises'
import { chromium, type Page } from '@playwright/test'
import { connect, openPool } from '#db/platform'
import { openDemo, settled } from './installation.ts'
import { report, spreadOf, type Verdict } from './measure.ts'

const DAYS = 30
const TIMES = 12
const WARM = 2
const CURVES_MS = 300
const HEAT_MS = 1500
const LONG_MS = 50
/** The hosts of both clusters: twelve. */
const CURVES = 'p=system.cpu.utilization~cluster~north&p=system.cpu.utilization~cluster~lantern'
const HEAT = 'p=hw.temperature&p=system.cpu.utilization~kind~machine'

interface Drawn {
  readonly answerMs: number
  readonly drawMs: number
}

/** Follows a link within the application until the canvas of the new picture has something on it. */
async function drawn(page: Page, path: string, rows: number | null): Promise<Drawn> {
  await page.goto(`${new URL(page.url()).origin}/past?w=1h`)
  await pause(1200)
  return page.evaluate(
    async ([href, count]) => {
      const link = document.createElement('a')
      link.href = href
      link.textContent = 'go'
      document.querySelector('main, body')!.append(link)
      const isDrawn = (): boolean => {
        if (!location.href.endsWith(href)) return false
        if (count !== null && document.querySelectorAll('[data-testid=curve-row]').length !== count)
          return false
        const canvas = document.querySelector<HTMLCanvasElement>(
          '[data-testid=past-panel] canvas, [data-testid=heat] canvas',
        )
        if (canvas === null || canvas.width === 0) return false
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
        return data.some((value, index) => index % 4 === 3 && value > 0)
      }
      const began = performance.now()
      link.click()
      for (;;) {
        await new Promise((resolve) => requestAnimationFrame(resolve))
        if (isDrawn()) break
        if (performance.now() - began > 30_000) throw new Error(`${href} was not drawn`)
      }
      const ended = performance.now()
      const [answer] = performance
        .getEntriesByType('resource')
        .filter(({ name, startTime }) => name.includes('__data.json') && startTime >= began)
      const answered = (answer as PerformanceResourceTiming | undefined)?.responseEnd ?? began
      return { answerMs: answered - began, drawMs: ended - answered }
    },
    [path, rows] as const,
  )
}

async function verdictOf(page: Page, what: string, path: string, rows: number | null, limit: number) {
  const all: Drawn[] = []
  for (let count = 0; count < TIMES + WARM; count += 1) all.push(await drawn(page, path, rows))
  const kept = all.slice(WARM)
  const whole = spreadOf(kept.map(({ answerMs, drawMs }) => answerMs + drawMs))
  const answer = spreadOf(kept.map(({ answerMs }) => answerMs))
  const draw = spreadOf(kept.map(({ drawMs }) => drawMs))
  return {
    what,
    measured: `median ${whole.median.toFixed(0)} ms, most ${whole.most.toFixed(0)} ms; of it until the answer was there ${answer.median.toFixed(0)} ms, in the browser ${draw.median.toFixed(0)} ms`,
    limit: `≤ ${limit} ms`,
    isMet: whole.median <= limit,
  }
}

/** Pans by its keys and points along the curves; what kept the page busy for longer than it may. */
async function panning(page: Page, path: string): Promise<Verdict> {
  await page.goto(new URL(page.url()).origin + path)
  await page.waitForSelector('[data-testid=past-panel] canvas')
  await pause(1200)
  await page.evaluate(() => {
    const kept = ((globalThis as unknown as { longTasks: number[] }).longTasks = [])
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) (kept as number[]).push(duration)
    }).observe({ entryTypes: ['longtask'] })
  })
  const box = (await page.locator('[data-testid=past-panel] canvas').first().boundingBox())!
  for (let round = 0; round < 10; round += 1) {
    for (let step = 0; step < 30; step += 1)
      await page.mouse.move(box.x + 60 + ((box.width - 100) * step) / 30, box.y + box.height / 2)
    const before = page.url()
    await page
      .getByRole('group', { name: /^Curves; left and right/ })
      .press(round % 2 === 0 ? 'ArrowLeft' : 'ArrowRight')
    await page.waitForURL((url) => url.href !== before)
    await pause(500)
  }
  const tasks = await page.evaluate(() => (globalThis as unknown as { longTasks: number[] }).longTasks)
  const most = Math.max(0, ...tasks)
  return {
    what: 'panning by keys and pointing, 12 curves',
    measured: `${tasks.length} tasks over ${LONG_MS} ms, the longest ${most.toFixed(0)} ms`,
    limit: `none over ${LONG_MS} ms`,
    isMet: tasks.length === 0,
  }
}

const demo = await openDemo({ RACK_DEMO_DAYS: String(DAYS) })
const db = connect(openPool(demo.databaseUrl, 2))
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium-headless-shell',
  args: ['--no-sandbox', '--disable-gpu'],
})
try {
  await settled(db)
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  // The compiler that runs this file gives functions their names by a helper that is not in the page.
  await page.addInitScript('globalThis.__name = (each) => each')
  await page.goto(`${demo.url}/sign-in`)
  await page.getByLabel('Mail address').fill('cleo@kittiwake.example')
  await page.getByLabel('Password').fill('kittiwake-demo')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await page.waitForURL(`${demo.url}/`)
  // The same window for every click.
  const window = `from=${Date.now() - DAYS * 86_400_000}&to=${Date.now()}`
  report('Past in the browser, 30 days', [
    await verdictOf(page, '12 curves, from the click to drawn', `/past?${CURVES}&${window}`, 12, CURVES_MS),
    await verdictOf(
      page,
      'a heat map of many, from the click to drawn',
      `/past?${HEAT}&${window}`,
      null,
      HEAT_MS,
    ),
    await panning(page, `/past?${CURVES}&${window}`),
  ])
} finally {
  await browser.close()
  await db.destroy()
  await demo.close()
}
