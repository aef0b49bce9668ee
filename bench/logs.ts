import { createSocket } from 'node:dgram'
import { setTimeout as pause } from 'node:timers/promises'
import { sql } from 'kysely'
import { openKeyFile } from '#db/sources'
import { searchTexts } from '#db/logs'
import { join } from 'node:path'
import { AlertWriter } from '../collector/judging/alertWriter.ts'
import { Notifier } from '../collector/notify/notifier.ts'
import { TextRules } from '../collector/judging/textRules.ts'
import { startSyslog, Texts } from '../collector/intake/texts.ts'
import { freePort } from '../bin/setup/postgres.mjs'
import { makeSources, openBenchCluster } from './store/cluster.ts'
import { report, spreadOf, timed } from './measure.ts'

// Syslog by UDP at a steady rate: parsed, given to its gear, stored with its words, judged by the shipped rules.
const RATE = 2000
const SECONDS = 60
const HOSTS = 20
const TICK_MS = 10

const cluster = await openBenchCluster()
try {
  const { db } = cluster
  await makeSources(db, HOSTS, 1)
  const gear = await db.selectFrom('gear').select(['name']).execute()
  const textRules = new TextRules(
    db,
    new AlertWriter(db, new Notifier(openKeyFile(join(cluster.scratch, 'secret.key')))),
  )
  const texts = new Texts(db, (stored) => textRules.take(stored))
  const port = await freePort()
  const ear = await startSyslog({ port, address: '127.0.0.1' }, (said) => texts.take(said))
  const socket = createSocket('udp4')
  const before = process.cpuUsage()
  const beganMs = performance.now()
  let sent = 0
  while (performance.now() - beganMs < SECONDS * 1000) {
    const due = Math.floor(((performance.now() - beganMs) / 1000) * RATE)
    for (; sent < due; sent += 1) {
      const host = gear[sent % gear.length]!.name.replaceAll(' ', '-')
      const line = `<${sent % 997 === 0 ? 130 : 134}>1 2026-11-24T12:00:00Z ${host} app${sent % 7} - - - request ${sent} took ${sent % 311} ms`
      socket.send(line, port, '127.0.0.1')
    }
    await pause(TICK_MS)
  }
  await pause(3000)
  await texts.close()
  const { user, system } = process.cpuUsage(before)
  const { rows } = await sql<{ lines: number; bytes: number }>`
    select sum(times)::int as lines, pg_total_relation_size('device_text')::float8 as bytes from device_text`.execute(
    db,
  )
  const { lines, bytes } = rows[0]!
  const nowMs = Date.now()
  const search = await timed(20, (index) =>
    searchTexts(
      db,
      {
        query: `request app${index % 7} "took 17 ms"`,
        atMost: 7,
        gearId: null,
        app: null,
        fromMs: 0,
        toMs: nowMs + 1e6,
      },
      null,
      201,
    ),
  )
  ear.close()
  socket.close()
  report('What devices say, by UDP', [
    {
      what: `${sent} lines in ${SECONDS} s, ${(((user + system) / 1e6 / SECONDS) * 100).toFixed(0)} % of one core with the sender`,
      measured: `${lines} stored, ${(bytes / Math.max(1, lines)).toFixed(0)} B a line with their words`,
      limit: `${RATE} lines/s, all of them stored`,
      isMet: lines === sent && sent >= RATE * SECONDS * 0.98,
    },
    {
      what: `a search through them`,
      measured: `median ${spreadOf(search).median.toFixed(0)} ms`,
      limit: '< 300 ms',
      isMet: spreadOf(search).median < 300,
    },
  ])
} finally {
  await cluster.close()
}
