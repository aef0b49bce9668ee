import { randomBytes } from 'node:crypto'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { openAlert } from '#db/alerts'
import type { Db } from '#db/platform'
import { seal } from '#db/sources'
import { tellByMail } from '#db/testing/callouts'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { newSeries } from '#db/testing/series'
import { freePort } from '../../bin/setup/postgres.mjs'
import { startMailSink } from '../../standins/mail/sink.ts'
import { Notifier } from './notifier.ts'

const key = randomBytes(32)
const notifier = new Notifier(key)
let db: Db
let drop: () => Promise<void>
let port = 0
beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  port = await freePort()
})
afterAll(() => drop())

async function tell(event: 'opened' | 'cleared'): Promise<string> {
  const { seriesIds } = await newSeries(db, 1)
  const { gearId } = await db
    .selectFrom('series')
    .select('gearId')
    .where('id', '=', seriesIds[0]!)
    .executeTakeFirstOrThrow()
  const news = {
    title: 'Fan 3 stopped in petrel-07',
    reason: '0 rpm, below the line.',
    atMs: Date.UTC(2026, 10, 24, 2, 9),
  }
  await db.transaction().execute(async (trx) => {
    const at = new Date(news.atMs)
    const alertId = await openAlert(trx, {
      ruleKey: 'fan-slow',
      seriesId: seriesIds[0]!,
      sourceId: null,
      gearId,
      partId: null,
      measure: 'hw.fan.speed',
      subject: `series ${seriesIds[0]}`,
      severity: 'critical',
      title: news.title,
      reason: news.reason,
      sinceAt: at,
      openedAt: at,
    })
    await notifier.notify(trx, { ...news, alertId: alertId!, event })
  })
  const row = await db
    .selectFrom('message')
    .select('id')
    .orderBy('createdAt', 'desc')
    .limit(1)
    .executeTakeFirst()
  return row?.id ?? ''
}
const message = (id: string) =>
  db.selectFrom('message').selectAll().where('id', '=', id).executeTakeFirstOrThrow()

test('without a call-out nobody is told and nothing waits', async () => {
  expect(await tell('opened')).toBe('')
})

test('a mail server that is away is noted, tried again, and the message goes out once', async () => {
  await tellByMail(db, {
    port,
    to: ['a@kittiwake.example', 'b@kittiwake.example'],
    sealedSecret: seal(key, { password: 'mail-secret' }),
  })
  const id = await tell('opened')
  await expect(notifier.send(db, id)).rejects.toThrow(/nothing listens on this port/)
  expect(await message(id)).toMatchObject({
    sentAt: null,
    attempts: 1,
    answer: expect.stringContaining('cannot be reached: nothing listens on this port') as string,
  })

  const sink = await startMailSink(port)
  await notifier.send(db, id)
  await notifier.send(db, id)
  expect(sink.mails).toHaveLength(1)
  expect(sink.mails[0]).toMatchObject({
    to: ['a@kittiwake.example', 'b@kittiwake.example'],
    messageId: `<${id}@restless-rack>`,
    // It began days ago, and is not new to anybody by now.
    subject: expect.stringMatching(
      /^\[New site\] Still open after [^:]+: Fan 3 stopped in petrel-07$/,
    ) as string,
  })
  expect(sink.mails[0]?.text).toMatch(
    /^0 rpm, below the line\.\n\n[\s\S]*Since: +02:09 \(UTC\)\nLink: +http:\/\/rack\.example:8460\/alerts\/\d+/,
  )
  expect(await message(id)).toMatchObject({ attempts: 2, answer: expect.stringMatching(/^250/) as string })
  const events = await db.selectFrom('alertEvent').select('text').where('what', '=', 'notified').execute()
  expect(events).toEqual([{ text: 'Told: the night team by mail.' }])
  await sink.close()
})

test('a message of before there were facts goes out under its own subject, not under whom its alert is about', async () => {
  const id = await tell('opened')
  await db
    .updateTable('message')
    .set({ facts: null, subject: 'Fan 3 stopped', body: 'It stands still.' })
    .where('id', '=', id)
    .execute()
  const sink = await startMailSink(port)
  await notifier.send(db, id)
  expect(sink.mails[0]?.subject).toContain('Fan 3 stopped')
  expect(sink.mails[0]?.subject).not.toContain('series')
  await sink.close()
})

test('no secret is in the message, the events or the answer', async () => {
  const rows = await db.selectFrom('message').selectAll().execute()
  expect(JSON.stringify(rows)).not.toContain('mail-secret')
})
