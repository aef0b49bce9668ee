import { fork } from 'node:child_process'
import { setTimeout as pause } from 'node:timers/promises'
import { sql } from 'kysely'
import { connect, type Db, openPool } from '#db/platform'
import { readSpans } from '#db/readings'
import { insertSource } from '#db/sources'
import { encodeExport } from '#protocols/otlp'
import { type Installation, openDemo } from './installation.ts'
import { report } from './measure.ts'
import { CORES, MACHINES, payload, tokenOf } from './senders.ts'

// What is hostile, all of it at once for a minute, on the loopback address and against an installation of its own, while
// 10,000 series are stored and judged beside it: nothing that was acknowledged is lost, alerts come in time, and memory
// stays within bounds.
const ATTACK_MS = 60_000
const INTERVAL_MS = 10_000
const SENDERS = 10
const LIMITS = { alertMs: 2000, megabytes: 768 }
const MiB = 1024 ** 2

interface Acknowledged {
  readonly sourceId: number
  readonly atMs: number
}

/**
 * Pushes at its pace until it is stopped. Under attack everything becomes busy.
 * @param sent takes when each push was sent, by sender and the instant that it tells of
 */
async function push(
  demo: Installation,
  sender: number,
  sourceId: number,
  sent: Map<string, number>,
  end: AbortSignal,
  isBusy: () => boolean,
) {
  const acknowledged: Acknowledged[] = []
  const refused: string[] = []
  // Senders have each their own beat; all in one second is what no ten of them do.
  await pause((sender * INTERVAL_MS) / SENDERS)
  while (!end.aborted) {
    const atMs = Math.floor(Date.now() / 1000) * 1000
    const body = new Uint8Array(encodeExport(payload(sender, atMs, isBusy() ? 0.99 : 0.2)))
    sent.set(`${sender} ${atMs}`, Date.now())
    const reply = await fetch(`http://127.0.0.1:${demo.port + 2}/v1/metrics`, {
      method: 'POST',
      headers: { 'content-type': 'application/x-protobuf', authorization: `Bearer ${tokenOf(sender)}` },
      body,
    }).catch((error: unknown) => String(error))
    if (typeof reply !== 'string' && reply.ok) acknowledged.push({ sourceId, atMs })
    else refused.push(typeof reply === 'string' ? reply : `${reply.status} ${await reply.text()}`)
    await pause(INTERVAL_MS)
  }
  return { acknowledged, refused }
}

/** For each alert of ours, how long after the push that it was opened for was sent it could be seen. */
async function watchAlerts(
  db: Db,
  sent: ReadonlyMap<string, number>,
  end: AbortSignal,
): Promise<Map<number, number>> {
  const seen = new Map<number, number>()
  while (!end.aborted) {
    const { rows } = await sql<{ id: number; sender: string; openedMs: number }>`
      select alert.id, split_part(gear.name, '-', 2) as sender,
        (extract(epoch from opened_at) * 1000)::float8 as "openedMs"
      from alert join gear on gear.id = gear_id where gear.name like 'calm-%'`.execute(db)
    for (const { id, sender, openedMs } of rows)
      if (!seen.has(id)) seen.set(id, Date.now() - sent.get(`${sender} ${openedMs}`)!)
    await pause(100)
  }
  return seen
}

/** How many of the instants that were acknowledged have a reading of every series. */
async function storedOf(db: Db, acknowledged: readonly Acknowledged[], fromMs: number): Promise<number> {
  let stored = 0
  for (const sourceId of new Set(acknowledged.map((each) => each.sourceId))) {
    const series = await db.selectFrom('series').select('id').where('sourceId', '=', sourceId).execute()
    const spans = await readSpans(
      db,
      series.map(({ id }) => id),
      fromMs,
      Date.now(),
    )
    const counts = new Map<number, number>()
    for (const { times, values } of spans.values())
      times.forEach((atMs, index) => {
        if (Number.isFinite(values[index])) counts.set(atMs, (counts.get(atMs) ?? 0) + 1)
      })
    const own = acknowledged.filter((each) => each.sourceId === sourceId)
    stored += own.filter(({ atMs }) => counts.get(atMs) === MACHINES * (CORES + 1)).length
  }
  return stored
}

const demo = await openDemo({ RACK_DEMO_DAYS: '2' })
const db = connect(openPool(demo.databaseUrl, 3))
try {
  const ids: number[] = []
  for (let sender = 0; sender < SENDERS; sender += 1)
    ids.push(
      await insertSource(db, {
        name: `calm ${sender}`,
        protocol: 'otlp',
        address: 'pushes from 127.0.0.1',
        settings: {},
        intervalSeconds: INTERVAL_MS / 1000,
        credentialId: null,
        token: tokenOf(sender),
      }),
    )
  await pause(15_000)
  const stop = new AbortController()
  const beganMs = Date.now() - 1000
  let isAttacked = false
  const sent = new Map<string, number>()
  const pushing = ids.map((id, sender) => push(demo, sender, id, sent, stop.signal, () => isAttacked))
  // Those are sources that are known for a while: the first push of each makes its series.
  await pause(20_000)
  isAttacked = true
  const watching = watchAlerts(db, sent, stop.signal)
  const attackers = fork(new URL('./hostile.ts', import.meta.url))
  attackers.send({ url: demo.url, port: demo.port, cookie: demo.cookie })
  const most = { collector: 0, web: 0 }
  const before = { collector: demo.memoryOf('collector/main.ts'), web: demo.memoryOf('setup/web.mjs') }
  for (const endMs = Date.now() + ATTACK_MS; Date.now() < endMs; await pause(500)) {
    most.collector = Math.max(most.collector, demo.memoryOf('collector/main.ts'))
    most.web = Math.max(most.web, demo.memoryOf('setup/web.mjs'))
  }
  stop.abort()
  const counts = new Promise<[string, number][]>((resolve) => attackers.once('message', resolve))
  attackers.send('stop')
  const told = await Promise.all(pushing)
  const acknowledged = told.flatMap((each) => each.acknowledged)
  const refused = told.flatMap((each) => each.refused)
  for (const [what, count] of await counts) console.log(`  ${what}: ${count}`)
  if (refused.length > 0) console.log(`  of ours refused: ${refused.length}, as ${refused[0]}`)
  const alerts = [...(await watching).values()].sort((a, b) => a - b)
  await pause(5000)
  const stored = await storedOf(db, acknowledged, beganMs)
  const megabytes = (bytes: number): string => `${Math.round(bytes / MiB)} MiB`
  report(
    `${SENDERS * MACHINES * (CORES + 1)} series stored and judged under attack for ${ATTACK_MS / 1000} s`,
    [
      {
        what: 'pushes that were acknowledged and are stored',
        measured: `${stored} of ${acknowledged.length}, ${refused.length} of ours refused`,
        limit: 'all, and at least five a sender',
        isMet: stored === acknowledged.length && acknowledged.length >= 5 * SENDERS,
      },
      {
        what: 'alerts',
        measured: `${alerts.length} of ${SENDERS * MACHINES}, the slowest after ${Math.round(alerts.at(-1) ?? NaN)} ms, half of them after ${Math.round(alerts[alerts.length >> 1] ?? NaN)} ms`,
        limit: `all, within ${LIMITS.alertMs} ms`,
        isMet: alerts.length === SENDERS * MACHINES && alerts.at(-1)! <= LIMITS.alertMs,
      },
      ...(['collector', 'web'] as const).map((name) => ({
        what: `memory of the ${name === 'web' ? 'web process' : name}`,
        measured: `${megabytes(before[name])} before, ${megabytes(most[name])} at most`,
        limit: `${LIMITS.megabytes} MiB`,
        isMet: most[name] <= LIMITS.megabytes * MiB,
      })),
    ],
  )
} finally {
  await db.destroy()
  await demo.close()
}
