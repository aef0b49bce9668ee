import { createSocket } from 'node:dgram'
import { connect as connectTcp, type Socket } from 'node:net'
import { setTimeout as pause } from 'node:timers/promises'
import { gzipSync } from 'node:zlib'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { sql } from 'kysely'
import { connect, type Db, openPool } from '#db/platform'
import { readSpans } from '#db/readings'
import { insertSource } from '#db/sources'
import { encodeExport, type ExportRequest } from '#protocols/otlp'
import { writeWorkbook } from '../web/server/gear/workbook.ts'
import { type Installation, openDemo } from './installation.ts'
import { report } from './measure.ts'

// What is hostile, all of it at once for a minute, on the loopback address and against an installation of its own, while
// 10,000 series are stored and judged beside it: nothing that was acknowledged is lost, alerts come in time, and memory
// stays within bounds.
const ATTACK_MS = 60_000
const INTERVAL_MS = 10_000
const SENDERS = 10
const MACHINES = 48
/** Of each machine: so many cores, and their mean. */
const CORES = 20
const LIMITS = { alertMs: 2000, megabytes: 768 }
const MiB = 1024 ** 2

type Attribute = ExportRequest['resourceMetrics'][number]['resource']['attributes'][number]
const attributes = (entries: Readonly<Record<string, string>>): Attribute[] =>
  Object.entries(entries).map(([key, stringValue]) => ({ key, value: { stringValue } }))

/** One instant of all machines of a sender, each core as busy as said. */
function payload(sender: number, atMs: number, use: number): ExportRequest {
  return {
    resourceMetrics: Array.from({ length: MACHINES }, (_, machine) => ({
      resource: {
        attributes: attributes({
          'rack.kind': 'machine',
          'host.id': `6f1c2a4e-0b7d-4c55-9e10-${String(sender * 1000 + machine).padStart(12, '0')}`,
          'host.name': `calm-${sender}-${machine}`,
        }),
      },
      scopeMetrics: [
        {
          metrics: [
            {
              name: 'system.cpu.utilization',
              unit: '1',
              gauge: {
                dataPoints: Array.from({ length: CORES }, (__, core) => ({
                  timeUnixNano: `${BigInt(atMs) * 1_000_000n}`,
                  asDouble: use,
                  attributes: attributes({ 'cpu.logical_number': String(core) }),
                })),
              },
            },
          ],
        },
      ],
    })),
  }
}

interface Acknowledged {
  readonly sourceId: number
  readonly atMs: number
}

/** Pushes at its pace until it is stopped. Under attack everything becomes busy. */
async function push(
  demo: Installation,
  sender: number,
  sourceId: number,
  end: AbortSignal,
  isBusy: () => boolean,
) {
  const acknowledged: Acknowledged[] = []
  const refused: string[] = []
  while (!end.aborted) {
    const atMs = Math.floor(Date.now() / 1000) * 1000
    const reply = await fetch(`http://127.0.0.1:${demo.port + 2}/v1/metrics`, {
      method: 'POST',
      headers: { 'content-type': 'application/x-protobuf', authorization: `Bearer ${tokenOf(sender)}` },
      body: new Uint8Array(encodeExport(payload(sender, atMs, isBusy() ? 0.99 : 0.2))),
    }).catch((error: unknown) => String(error))
    if (typeof reply !== 'string' && reply.ok) acknowledged.push({ sourceId, atMs })
    else refused.push(typeof reply === 'string' ? reply : `${reply.status} ${await reply.text()}`)
    await pause(INTERVAL_MS)
  }
  return { acknowledged, refused }
}

const tokenOf = (sender: number): string => `rr_bench_attack_sender_${sender}_of_ours`

/** Until the end, over and over; how often. What is refused is what is wanted. */
async function over(end: AbortSignal, work: () => Promise<unknown>): Promise<number> {
  let times = 0
  for (; !end.aborted; times += 1) await work().catch(() => undefined)
  return times
}

function attacks(demo: Installation, end: AbortSignal): Readonly<Record<string, Promise<number>>> {
  const receiver = `http://127.0.0.1:${demo.port + 2}/v1/metrics`
  const post = (body: Uint8Array, headers: Readonly<Record<string, string>>) =>
    fetch(receiver, {
      method: 'POST',
      headers,
      body: new Uint8Array(body),
      signal: AbortSignal.timeout(5000),
    })
  const protobuf = { 'content-type': 'application/x-protobuf' }
  const bomb = gzipSync(Buffer.alloc(64 * MiB), { level: 9 })
  const instants = Buffer.from(
    JSON.stringify({
      resourceMetrics: Array.from(
        { length: 1440 },
        (_, index) => payload(90, index * 1000, 0.5).resourceMetrics[0],
      ),
    }),
  )
  let made = 0
  const strange = () => `rr_made_up_${(made += 1)}_${Math.random()}`
  return {
    'pushes that unpack to 64 MiB': over(end, () =>
      post(bomb, { ...protobuf, 'content-encoding': 'gzip', authorization: `Bearer ${strange()}` }),
    ),
    'pushes of strangers with 1,440 instants': over(end, () =>
      post(instants, { 'content-type': 'application/json', authorization: `Bearer ${strange()}` }),
    ),
    'pushes that are no push': over(end, () =>
      post(Buffer.from(Array.from({ length: 4096 }, () => Math.floor(Math.random() * 256))), {
        ...protobuf,
        authorization: `Bearer ${tokenOf(0)}x`,
      }),
    ),
    'lines of syslog': lines(demo, end),
    'datagrams that are no notification': datagrams(demo.port + 13, end, () =>
      Buffer.from(Array.from({ length: 400 }, () => Math.floor(Math.random() * 256))),
    ),
    'workbooks with a cell far out': workbooks(demo, end),
    'bodies that never end': halfOpen(demo, end),
    'streams of one account': streams(demo, end),
  }
}

async function datagrams(port: number, end: AbortSignal, make: () => Buffer): Promise<number> {
  const socket = createSocket('udp4')
  let sent = 0
  while (!end.aborted) {
    for (let count = 0; count < 20; count += 1, sent += 1) socket.send(make(), port, '127.0.0.1')
    await pause(20)
  }
  socket.close()
  return sent
}

const lines = (demo: Installation, end: AbortSignal): Promise<number> =>
  datagrams(demo.port + 12, end, () =>
    Buffer.from(`<0>1 - petrel-07\0 ${'x'.repeat(2000)} - - [a@1 b="\0"] \u001b[31mpower off petrel-07 now`),
  )

async function workbooks(demo: Installation, end: AbortSignal): Promise<number> {
  const good = unzipSync(await writeWorkbook([{ name: 'Gear', head: ['Name'], rows: [['petrel-1']] }]))
  const path = Object.keys(good).find((name) => name.startsWith('xl/worksheets/sheet'))!
  const far = Buffer.from(good[path]!).toString('utf8').replace('r="A2"', 'r="XFD1048576"')
  const file = zipSync({ ...good, [path]: strToU8(far) }, { level: 9 })
  return over(end, async () => {
    const form = new FormData()
    form.set('file', new File([new Uint8Array(file)], 'gear.xlsx'))
    await fetch(`${demo.url}/gear/inventory?/import`, {
      method: 'POST',
      headers: { cookie: demo.cookie, origin: demo.url },
      body: form,
    })
    await pause(500)
  })
}

/** Bodies to the web process and to the receiver that stop half-way; opened anew as they are closed. */
async function halfOpen(demo: Installation, end: AbortSignal): Promise<number> {
  let opened = 0
  const open = new Set<Socket>()
  const begin = (port: number, head: string): void => {
    const socket = connectTcp(port, '127.0.0.1')
    open.add(socket)
    opened += 1
    socket.on('error', () => undefined)
    socket.on('close', () => open.delete(socket))
    socket.write(head)
  }
  const head = (path: string, host: string): string =>
    `POST ${path} HTTP/1.1\r\nhost: ${host}\r\norigin: http://${host}\r\ncontent-type: application/x-www-form-urlencoded\r\ncontent-length: 100000\r\n\r\nhalf`
  while (!end.aborted) {
    while (open.size < 600) {
      begin(demo.port, head('/sign-in', `127.0.0.1:${demo.port}`))
      begin(demo.port + 2, head('/v1/metrics', `127.0.0.1:${demo.port + 2}`))
    }
    await pause(200)
  }
  for (const socket of open) socket.destroy()
  return opened
}

async function streams(demo: Installation, end: AbortSignal): Promise<number> {
  const open = Array.from({ length: 1000 }, () => {
    const socket = connectTcp(demo.port, '127.0.0.1')
    socket.on('error', () => undefined)
    socket.on('data', () => undefined)
    socket.write(`GET /live HTTP/1.1\r\nhost: 127.0.0.1:${demo.port}\r\ncookie: ${demo.cookie}\r\n\r\n`)
    return socket
  })
  while (!end.aborted) await pause(200)
  for (const socket of open) socket.destroy()
  return open.length
}

/** For each alert of ours, how long after the last instant that it was opened for was acknowledged it was there. */
async function watchAlerts(db: Db, end: AbortSignal): Promise<Map<number, number>> {
  const seen = new Map<number, number>()
  while (!end.aborted) {
    const { rows } = await sql<{ id: number; openedMs: number }>`
      select alert.id, (extract(epoch from opened_at) * 1000)::float8 as "openedMs"
      from alert join gear on gear.id = gear_id where gear.name like 'calm-%'`.execute(db)
    // The instant is cut to a second.
    for (const { id, openedMs } of rows)
      if (!seen.has(id)) seen.set(id, Math.max(0, Date.now() - openedMs - 1000))
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
  const pushing = ids.map((id, sender) => push(demo, sender, id, stop.signal, () => isAttacked))
  // Those are sources that are known for a while: the first push of each makes its series.
  await pause(20_000)
  isAttacked = true
  const watching = watchAlerts(db, stop.signal)
  const running = attacks(demo, stop.signal)
  const most = { collector: 0, web: 0 }
  const before = { collector: demo.memoryOf('collector/main.ts'), web: demo.memoryOf('setup/web.mjs') }
  for (const endMs = Date.now() + ATTACK_MS; Date.now() < endMs; await pause(500)) {
    most.collector = Math.max(most.collector, demo.memoryOf('collector/main.ts'))
    most.web = Math.max(most.web, demo.memoryOf('setup/web.mjs'))
  }
  stop.abort()
  const told = await Promise.all(pushing)
  const acknowledged = told.flatMap((each) => each.acknowledged)
  const refused = told.flatMap((each) => each.refused)
  for (const [what, count] of Object.entries(running)) console.log(`  ${what}: ${await count}`)
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
