import { openDemo } from './installation.ts'
import { report, spreadOf, timed } from './measure.ts'

// How soon the server answers the main pages with the demo's data, while the collector is at work.
const LIMIT_MS = 100
const TIMES = 200
const PAGES = { Watch: '/', 'gear page': '/gear/3', sources: '/sources', gear: '/gear', rooms: '/rooms' }

const demo = await openDemo()
try {
  await new Promise((resolve) => setTimeout(resolve, 30_000))
  const verdicts = []
  for (const [name, path] of Object.entries(PAGES)) {
    const measured = await timed(TIMES + 10, async () => {
      const reply = await demo.get(path)
      const text = await reply.text()
      if (reply.status !== 200 || !text.includes('<h1')) throw new Error(`${path} answered ${reply.status}`)
    })
    const { median, p95, most } = spreadOf(measured.slice(10))
    verdicts.push({
      what: name,
      measured: `median ${median.toFixed(0)} ms, 95th percentile ${p95.toFixed(0)} ms, most ${most.toFixed(0)} ms; ${(p95 / LIMIT_MS).toFixed(2)} of the limit`,
      limit: `95th percentile under ${LIMIT_MS} ms`,
      isMet: p95 < LIMIT_MS,
    })
  }
  report(`Pages of the demo, ${TIMES} requests each`, verdicts)
} finally {
  await demo.close()
}
