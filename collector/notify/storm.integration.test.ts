import { type ChildProcess, spawn } from 'node:child_process'
import { chmodSync, mkdtempSync, openSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { connect, type Db, openPool, migrate } from '#db/platform'
import { openKeyFile, insertSource } from '#db/sources'
import { tellByMail } from '#db/testing/callouts'
import { freePort, openCluster } from '../../bin/setup/postgres.mjs'
import { startMailSink } from '../../standins/mail/sink.ts'
import { SEEDS } from '#protocols/seeds'
import { sized } from '../../core/testing/size.ts'

// A storm: 1,000 file systems (5,000 at full size) fill up at once, while the collector is killed at six random moments
// (twenty), and PostgreSQL and
// the mail server stop for a while. Real processes, a real PostgreSQL with fsync, pushes over HTTP, mail over SMTP.

const SENDERS = sized(20, 100)
const FILE_SYSTEMS = 50
const OPENINGS = SENDERS * FILE_SYSTEMS
const KILLS = sized(8, 20)
const AWAY_MS = sized(3000, 6000)
const RULE = 'filesystem-full'

const folder = mkdtempSync(join(tmpdir(), 'rack-storm-'))
const tokens = Array.from({ length: SENDERS }, (_, index) => `rr_storm_sender_number_${index}`)
/** Every message that the mail server has taken, alone in a mail or with others, with how often. */
const received = new Map<string, number>()
let mails = 0
let cluster: Awaited<ReturnType<typeof openCluster>>
let db: Db
let env: NodeJS.ProcessEnv
let receiverPort = 0
let mailPort = 0
let sink: Awaited<ReturnType<typeof startMailSink>>
let collector: ChildProcess

const startCollector = (): ChildProcess => {
  const log = openSync(join(folder, 'collector.log'), 'a')
  return spawn(process.execPath, ['programs/collector.mjs'], {
    env,
    stdio: ['ignore', log, log],
  })
}
async function kill(child: ChildProcess): Promise<void> {
  const ended = new Promise((resolve) => child.once('exit', resolve))
  child.kill('SIGKILL')
  await ended
}

beforeAll(async () => {
  chmodSync(folder, 0o755)
  cluster = await openCluster({ folder, port: await freePort() })
  db = connect(openPool(cluster.url))
  await migrate(db, SEEDS)
  receiverPort = await freePort()
  mailPort = await freePort()
  openKeyFile(join(folder, 'secret.key'))
  await tellByMail(db, { port: mailPort, mostAMinute: 30 })
  for (const [index, token] of tokens.entries())
    await insertSource(db, {
      name: `sender-${index}`,
      protocol: 'otlp',
      address: `sender-${index}`,
      settings: {},
      intervalSeconds: 60,
      credentialId: null,
      token,
    })
  env = {
    ...process.env,
    RACK_DATABASE_URL: cluster.url,
    RACK_DATA: folder,
    RACK_RECEIVER_PORT: String(receiverPort),
    RACK_LOG: 'warn',
  }
  await openSink()
  collector = startCollector()
})
afterAll(async () => {
  await kill(collector)
  await sink.close()
  await db.destroy()
  cluster.kill()
  rmSync(folder, { recursive: true, force: true })
})

async function openSink(): Promise<void> {
  sink = await startMailSink(mailPort, undefined, ({ messageId, ids }) => {
    mails += 1
    const alone = [messageId.slice(1, -'@restless-rack>'.length)]
    for (const id of ids.length === 0 ? alone : ids) received.set(id, (received.get(id) ?? 0) + 1)
  })
}

function payload(index: number, atMs: number): string {
  const timeUnixNano = `${atMs}000000`
  const text = (key: string, stringValue: string) => ({ key, value: { stringValue } })
  return JSON.stringify({
    resourceMetrics: [
      {
        resource: { attributes: [text('host.name', `host-${index}`), text('host.id', `id-${index}`)] },
        scopeMetrics: [
          {
            metrics: [
              {
                name: 'system.filesystem.utilization',
                unit: '1',
                gauge: {
                  dataPoints: Array.from({ length: FILE_SYSTEMS }, (_, mount) => ({
                    timeUnixNano,
                    asDouble: 0.97,
                    attributes: [text('system.filesystem.mountpoint', `/data/${mount}`)],
                  })),
                },
              },
            ],
          },
        ],
      },
    ],
  })
}

/** One push; whether it was taken over. */
async function push(index: number): Promise<boolean> {
  const reply = await fetch(`http://127.0.0.1:${receiverPort}/v1/metrics`, {
    method: 'POST',
    headers: { authorization: `Bearer ${tokens[index]}`, 'content-type': 'application/json' },
    body: payload(index, Date.now()),
    signal: AbortSignal.timeout(20_000),
  }).catch(() => null)
  return reply?.ok ?? false
}

const figures = async () => {
  const alerts = await db
    .selectFrom('alert')
    .select((eb) => [
      eb.fn.countAll<string>().as('all'),
      eb.fn.count<string>('subject').distinct().as('subjects'),
    ])
    .where('ruleKey', '=', RULE)
    .executeTakeFirstOrThrow()
  const messages = await db
    .selectFrom('message')
    .innerJoin('alert', 'alert.id', 'message.alertId')
    .select((eb) => [
      eb.fn.countAll<string>().as('all'),
      eb.fn.count<string>('alert.id').distinct().as('alerts'),
      eb.fn.count<string>('message.sentAt').as('sent'),
    ])
    .where('ruleKey', '=', RULE)
    .executeTakeFirstOrThrow()
  return {
    alerts: Number(alerts.all),
    subjects: Number(alerts.subjects),
    messages: Number(messages.all),
    told: Number(messages.alerts),
    sent: Number(messages.sent),
  }
}

test('in a storm of openings each alert is opened once, and each message delivered at least once', async () => {
  const startedMs = Date.now()
  let isOver = false
  let pushes = 0
  // Senders go on in turns, four at a time, whatever becomes of a push: as they do in life.
  const senders = Array.from({ length: 4 }, async (_, lane) => {
    for (let turn = lane; !isOver; turn += 4) {
      if (await push(turn % SENDERS)) pushes += 1
      else await pause(200)
      await pause(60)
    }
  })
  const accepting = async (): Promise<void> => {
    const before = pushes
    while (pushes === before) await pause(100)
  }
  await accepting()
  for (let count = 0; count < KILLS; count += 1) {
    // The first ones while what has just been taken over is judged, the others while messages go out.
    while (count >= KILLS / 2 && (await figures()).sent === 0) await pause(100)
    await pause(50 + Math.random() * (count < KILLS / 2 ? 400 : sized(1500, 3500)))
    await kill(collector)
    collector = startCollector()
    if (count === sized(6, 14)) {
      await sink.close()
      await pause(AWAY_MS)
      await openSink()
    }
    if (count === sized(2, 6)) {
      cluster.stop()
      await pause(AWAY_MS)
      cluster.start()
    }
    await accepting()
  }
  const isDone = async (): Promise<boolean> => {
    const { subjects, sent } = await figures().catch(() => ({ subjects: 0, sent: 0 }))
    return subjects === OPENINGS && sent >= OPENINGS
  }
  const deadlineMs = Date.now() + 15 * 60_000
  while (Date.now() < deadlineMs && !(await isDone())) await pause(1000)
  isOver = true
  await Promise.all(senders)
  const found = await figures()
  const ids = await db
    .selectFrom('message')
    .innerJoin('alert', 'alert.id', 'message.alertId')
    .select('message.id')
    .where('ruleKey', '=', RULE)
    .execute()
  const missing = ids.filter(({ id }) => !received.has(id))
  const repeats = [...received.values()].reduce((sum, times) => sum + times - 1, 0)
  console.log(
    `storm: ${OPENINGS} openings, ${KILLS} kills of the collector, PostgreSQL and the mail server away for ${AWAY_MS / 1000} s each, ${Math.round((Date.now() - startedMs) / 1000)} s: ` +
      `${found.alerts} alerts on ${found.subjects} subjects, ${found.messages} messages, ${received.size} of them received in ${mails} mails, ${repeats} again, ${missing.length} lost`,
  )
  expect(found).toEqual({
    alerts: OPENINGS,
    subjects: OPENINGS,
    messages: OPENINGS,
    told: OPENINGS,
    sent: OPENINGS,
  })
  expect(missing).toEqual([])
}, 1_800_000)
