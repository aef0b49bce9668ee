import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import type { Findings } from '#core/gear'
import { connect, openPool } from '#db/platform'
import { openKeyFile } from '#db/sources'
import { limitsOf } from '../../collector/jobs/jobs.ts'
import { THREADS } from '../../collector/jobs/threads.ts'
import { Delivery, type Taken } from '../../collector/intake/delivery.ts'
import { Judgement } from '../../collector/judging/judgement.ts'
import { Spool } from '../../collector/intake/spool.ts'
import { AlertWriter } from '../../collector/judging/alertWriter.ts'
import { Notifier } from '../../collector/notify/notifier.ts'
import { makeSources } from './cluster.ts'
import { mixedSeries } from './mix.ts'

// What the collector does with what it reads, at full speed, with a clock of its own: a line of memory every hour.

const [url = '', scratch = ''] = process.argv.slice(2)
const SOURCES = 100
const SERIES = 100
const START = 20_700 * 86_400_000

const db = connect(openPool(url))
const sources = await makeSources(db, SOURCES, 1)
const makers = mixedSeries(SOURCES * SERIES)
const spool = new Spool<Taken>(join(scratch, 'spool'), 1 << 30)
await spool.open()
const judgement = new Judgement(
  db,
  new AlertWriter(db, new Notifier(openKeyFile(join(scratch, 'secret.key')))),
)
const delivery = new Delivery(db, spool, (stored) => judgement.judgeMoment(stored))
const sealer = new Worker(new URL('./weekSealer.mjs', import.meta.url), {
  workerData: { url },
  resourceLimits: limitsOf(THREADS[0]!),
})

/** A server with a hundred sensors, as its driver would report it: built anew each time. */
function found(source: number, minute: number): Findings {
  const key = `server ${source}`
  const names = Array.from({ length: SERIES }, (_, index) => `sensor ${index}`)
  return {
    gear: [
      {
        key,
        kind: 'server',
        name: key,
        identities: [{ kind: 'serial', value: `S-${source}` }],
        facts: {},
        parts: names.map((name) => ({ key: name, kind: 'sensor', name, facts: {} })),
      },
    ],
    links: [],
    readings: names.map((name, index) => ({
      gear: key,
      part: name,
      measure: 'hw.voltage',
      value: makers[source * SERIES + index]!(minute),
    })),
  }
}

for (let minute = 0; minute < 7 * 1440; minute += 1) {
  const atMs = START + minute * 60_000
  await Promise.all(
    sources.map(({ sourceId }, index) =>
      delivery.take({ sourceId, atMs, heardAtMs: atMs, durationMs: 5, findings: found(index, minute) }),
    ),
  )
  if (minute % 60 === 0) {
    sealer.postMessage(atMs)
    const rssMiB = process.memoryUsage().rss / 1024 ** 2
    console.log(JSON.stringify({ day: Math.floor(minute / 1440), rssMiB }))
  }
}
await delivery.close()
await spool.close()
await sealer.terminate()
await db.destroy()
