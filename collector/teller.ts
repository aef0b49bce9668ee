import { randomUUID } from 'node:crypto'
import { sql } from 'kysely'
import nodemailer from 'nodemailer'
import { formatClock, formatElapsed } from '#core/units'
import { placeLabel } from '#core/topology'
import { recordEvent } from '#db/alerts'
import type { Db } from '#db/connect'
import { announce } from '#db/live'
import { type SecretKey, unseal } from '#db/secrets'
import { readMailSetting, readSite } from '#db/settings'

export interface News {
  readonly alertId: number
  readonly event: 'opened' | 'worse' | 'cleared'
  readonly title: string
  readonly reason: string
  readonly atMs: number
}

/**
 * Tells the team. A message is written in the transaction that changes the alert, together with the job that sends it,
 * so there is no alert without its message and no message without its alert. Sending is at least once: the message's
 * id is its `Message-ID` (RFC 5322 §3.6.4), by which a repeat is recognised.
 */
export class Teller {
  constructor(private readonly key: SecretKey) {}

  async tell(trx: Db, news: News): Promise<void> {
    const mail = await readMailSetting(trx)
    if (mail === null) return
    const site = await readSite(trx)
    const place = await placeOf(trx, news.alertId)
    const id = randomUUID()
    const word = news.event === 'cleared' ? 'Cleared' : news.event === 'worse' ? 'Worse' : 'New'
    await trx
      .insertInto('message')
      .values({
        id,
        alertId: news.alertId,
        recipients: mail.to,
        team: mail.team,
        subject: `[${site.name}] ${word}: ${news.title}${place === null ? '' : ` (${place})`}`,
        body: [
          news.reason,
          '',
          ...(place === null ? [] : [`Where:  ${place}`]),
          `When:   ${formatClock(news.atMs, site.timeZone)} (${site.timeZone})`,
          `Look:   ${new URL(`/?alert=${news.alertId}`, mail.webAddress).href}`,
          '',
          `${site.name}, told to ${mail.team}`,
        ].join('\n'),
      })
      .execute()
    await sql`select graphile_worker.add_job('mail', ${JSON.stringify({ id })}::json, max_attempts := 20)`.execute(
      trx,
    )
  }

  /** Who heard that it began hears that it ended; where nobody was told, nobody needs to be. */
  async tellCleared(trx: Db, news: Omit<News, 'event'>): Promise<void> {
    const told = await trx
      .selectFrom('message')
      .select('id')
      .where('alertId', '=', news.alertId)
      .executeTakeFirst()
    if (told !== undefined) await this.tell(trx, { ...news, event: 'cleared' })
  }

  /** The job behind a message. Rejects when the mail server does, and is then tried again with growing pauses. */
  async send(
    db: Db,
    id: string,
    { abortSignal }: { abortSignal?: AbortSignal | undefined } = {},
  ): Promise<void> {
    const message = await db.selectFrom('message').selectAll().where('id', '=', id).executeTakeFirst()
    if (message === undefined || message.sentAt !== null || abortSignal?.aborted) return
    const mail = await readMailSetting(db)
    if (mail === null) return
    const password =
      mail.sealedPassword === null ? null : unseal(this.key, Buffer.from(mail.sealedPassword, 'base64'))
    const transport = nodemailer.createTransport({
      host: mail.host,
      port: mail.port,
      secure: mail.port === 465,
      connectionTimeout: 10_000,
      greetingTimeout: 10_000,
      socketTimeout: 20_000,
      ...(mail.username === '' || password === null
        ? {}
        : { auth: { user: mail.username, pass: password['password'] ?? '' } }),
    })
    try {
      const { response } = await transport.sendMail({
        messageId: `<${id}@restless-rack>`,
        from: mail.from,
        to: message.recipients,
        subject: message.subject,
        text: message.body,
      })
      const at = new Date()
      await db.transaction().execute(async (trx) => {
        await trx
          .updateTable('message')
          .set((eb) => ({ sentAt: at, attempts: eb('attempts', '+', 1), answer: response }))
          .where('id', '=', id)
          .execute()
        const late = at.getTime() - message.createdAt.getTime()
        const text = `${message.team} told by mail${late > 60_000 ? `, ${formatElapsed(late)} late` : ''}.`
        await recordEvent(trx, message.alertId, { at, what: 'told', who: null, text })
        await announce(trx, { topic: 'alerts' })
      })
    } catch (error) {
      const answer = error instanceof Error ? error.message : String(error)
      await db
        .updateTable('message')
        .set((eb) => ({ attempts: eb('attempts', '+', 1), answer }))
        .where('id', '=', id)
        .where('sentAt', 'is', null)
        .execute()
      throw error
    } finally {
      transport.close()
    }
  }
}

async function placeOf(trx: Db, alertId: number): Promise<string | null> {
  const row = await trx
    .selectFrom('alert')
    .innerJoin('gear', 'gear.id', 'alert.gearId')
    .leftJoin('rack', 'rack.id', 'gear.rackId')
    .leftJoin('room', 'room.id', 'rack.roomId')
    .select(['room.name as room', 'rack.name as rack', 'gear.unit', 'gear.heightUnits'])
    .where('alert.id', '=', alertId)
    .executeTakeFirst()
  if (row === undefined) return null
  const position =
    row.unit === null || row.heightUnits === null ? null : { unit: row.unit, heightUnits: row.heightUnits }
  return placeLabel({ room: row.room, rack: row.rack, position })
}
