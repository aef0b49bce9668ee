import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, afterEach, beforeEach, expect, test, vi } from 'vitest'
import type { Db } from '#db/platform'
import { openKeyFile } from '#db/sources'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { freePorts } from '../bin/setup/postgres.mjs'
import { loadDemo } from '../standins/demo/demo.ts'
import { readersOf } from '../standins/demo/readers.ts'
import { startMailSink } from '../standins/mail/sink.ts'
import { FaultBoard } from '../standins/model/faults.ts'
import { simulatedSite } from '../standins/model/site.ts'
import { NIGHTS } from '../standins/nights/index.ts'
import { Outside } from '../standins/outside/server.ts'
import { GATEWAY_TOKEN, HOOK_SECRET, portsFrom } from '../standins/site/index.ts'
import { Notifier } from './notify/notifier.ts'
import { NightPlayer } from './testing/playedNight.ts'

// Nights of the demo's machine room: each fault told in time, each number true when it left, nothing told as new that was
// not. Hours are played in seconds: documents of the stand-ins, parsers, judging, the database and the channels are real,
// the clock is set.

const isLong = process.env['RACK_TEST_LONG'] === 'yes'
/** These are played by default; all of them by `bin/test --long`. */
const USUAL = ['one-of-two', 'host-off']
const nights = NIGHTS.filter(
  ({ key }) => process.env['RACK_NIGHTS']?.split(',').includes(key) ?? (isLong || USUAL.includes(key)),
)

const folder = mkdtempSync(join(tmpdir(), 'rack-nights-'))
const base = await freePorts(40)
let db: Db
let drop: () => Promise<void>
let closers: (() => unknown)[] = []
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const table: string[] = []
afterAll(() => {
  console.log(
    ['night             rows most   mails   texts   numbers   untrue   late as new   untold', ...table].join(
      '\n',
    ),
  )
})

const DAY_MS = 86_400_000
/** A quarter to three, UTC: until half past six neither the forecast nor the backup keeps the machines of the demo busy. */
const CALM_MS = 2.75 * 3_600_000

let player: NightPlayer
beforeEach(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  vi.useFakeTimers({ toFake: ['Date'] })
  const nowMs = Math.floor((Date.now() - CALM_MS) / DAY_MS) * DAY_MS + CALM_MS
  vi.setSystemTime(nowMs)
  const ports = portsFrom(base)
  const key = openKeyFile(join(folder, 'secret.key'))
  const sources = await loadDemo(db, {
    key,
    standinFolder: folder,
    portBase: base,
    intervalSeconds: 10,
    nowMs,
  })
  const site = simulatedSite(nowMs)
  const mailFaults = new FaultBoard(['refuse'])
  let mails = 0
  const all: { subject: string; text: string }[] = []
  const sink = await startMailSink(ports.mail, mailFaults)
  const outside = new Outside({
    port: ports.outside,
    token: GATEWAY_TOKEN,
    secret: HOOK_SECRET,
    mails: sink.mails,
  })
  await outside.start()
  closers = [() => sink.close(), () => outside.close()]
  player = new NightPlayer(
    {
      db,
      site,
      readers: readersOf(site, ports),
      sources,
      notifier: new Notifier(key),
      mailFaults,
      received: {
        mails: () => {
          all.push(...sink.mails.slice(mails))
          mails = sink.mails.length
          return all
        },
        texts: () => outside.texts.length,
      },
      setClock: (atMs) => vi.setSystemTime(atMs),
    },
    nowMs,
  )
  await player.settle(14)
}, 300_000)
afterEach(async () => {
  vi.useRealTimers()
  for (const close of closers) await close()
  await drop()
})

test.each(nights)(
  '$key: $words',
  async (night) => {
    const { rowsMost, mails, texts, untold, untrue, numbers, stale } = await player.play(night)
    table.push(
      [
        night.key.padEnd(18),
        String(rowsMost).padStart(9),
        String(mails.length).padStart(8),
        String(texts).padStart(8),
        String(numbers).padStart(10),
        String(untrue.length).padStart(9),
        String(stale.length).padStart(14),
        String(untold.length).padStart(9),
      ].join(''),
    )
    const told = mails.map(({ atMs, subject }) => `${new Date(atMs).toISOString().slice(11, 19)} ${subject}`)
    if (process.env['RACK_NIGHTS'] !== undefined) console.log([night.key, ...told].join('\n  '))
    expect({ untold, untrue, stale }, told.join('\n')).toEqual({ untold: [], untrue: [], stale: [] })
    expect(rowsMost, told.join('\n')).toBeLessThanOrEqual(night.most.rows)
    expect(mails.length + texts, told.join('\n')).toBeLessThanOrEqual(night.most.messages)
  },
  1_800_000,
)
