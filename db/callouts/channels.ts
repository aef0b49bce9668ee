import { sql } from 'kysely'
import { z } from 'zod'
import type { ChannelKind } from '#core/callouts'
import { listCallOuts } from './callouts.ts'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { recordChange } from '../platform/record.ts'

/** What each kind of channel needs to know. Secrets are kept apart, sealed. */
export const CHANNEL_FORMS = {
  mail: z.object({
    host: z.string().trim().min(1, 'Enter the host of the mail server'),
    port: z.coerce.number('A port is a number').int().min(1).max(65535, 'A port is at most 65535'),
    from: z.email('Enter the address that mail comes from, like rack@example.org'),
    username: z.string().trim().default(''),
    /** `offered`: STARTTLS where the server offers it (RFC 3207). `implicit`: TLS from the first octet (RFC 8314). */
    tls: z.enum(['offered', 'required', 'implicit']).default('offered'),
    /** The certificate of an authority of one's own, in PEM; empty: those of the system. */
    authorityPem: z
      .string()
      .trim()
      .max(64_000, 'The certificate is longer than 64 000 characters')
      .refine(
        (text) => text === '' || text.includes('-----BEGIN CERTIFICATE-----'),
        'Paste the certificate of the authority in PEM, with its first and last line',
      )
      .default(''),
  }),
  text: z.object({
    url: z.url({
      protocol: /^https?$/,
      error: 'Enter the address of the gateway, beginning with http:// or https://',
    }),
    format: z.enum(['json', 'form']).default('json'),
    toField: z.string().trim().min(1, 'Name the field that takes the number').max(60).default('to'),
    textField: z.string().trim().min(1, 'Name the field that takes the text').max(60).default('text'),
    idField: z.string().trim().max(60).default('id'),
    /** With a password it is HTTP Basic, with a token alone Bearer (RFC 7617, RFC 6750). */
    username: z.string().trim().default(''),
  }),
  hook: z.object({
    url: z.url({
      protocol: /^https?$/,
      error: 'Enter the address of the hook, beginning with http:// or https://',
    }),
  }),
  screen: z.object({ sound: z.enum(['no', 'once', 'taken']).default('no') }),
} as const satisfies Record<ChannelKind, z.ZodType>
export type ChannelSettings<K extends ChannelKind> = z.infer<(typeof CHANNEL_FORMS)[K]>

export interface ChannelRow {
  readonly id: number
  readonly name: string
  readonly kind: ChannelKind
  readonly settings: Readonly<Record<string, unknown>>
  readonly hasSecret: boolean
}

export async function listChannels(db: Db): Promise<ChannelRow[]> {
  const rows = await db.selectFrom('channel').selectAll().orderBy('id').execute()
  return rows.map(({ id: channelId, name, kind, settings, sealedSecret }) => ({
    id: channelId,
    name,
    kind,
    settings,
    hasSecret: sealedSecret !== null,
  }))
}

export interface NewChannel {
  readonly name: string
  readonly kind: ChannelKind
  readonly settings: Readonly<Record<string, unknown>>
  /** `undefined` keeps the one there is. */
  readonly sealedSecret: Buffer | null | undefined
}

/** @returns `null` when another has its name */
export async function saveChannel(
  db: Db,
  channelId: number | null,
  { name, kind, settings, sealedSecret }: NewChannel,
  who: string,
): Promise<number | null> {
  return within(db, async (trx) => {
    const other = await trx.selectFrom('channel').select('id').where('name', '=', name).executeTakeFirst()
    if (other !== undefined && other.id !== channelId) return null
    const values = { name, kind, settings: JSON.stringify(settings) }
    const kept =
      channelId === null
        ? await trx
            .insertInto('channel')
            .values({ ...values, sealedSecret: sealedSecret ?? null })
            .returning('id')
            .executeTakeFirstOrThrow()
        : await trx
            .updateTable('channel')
            .set({ ...values, ...(sealedSecret === undefined ? {} : { sealedSecret }) })
            .where('id', '=', channelId)
            .returning('id')
            .executeTakeFirst()
    if (kept === undefined) return null
    await recordChange(trx, who, `${channelId === null ? 'added' : 'changed'} the channel “${name}”`)
    await announce(trx, { topic: 'callouts' })
    return kept.id
  })
}

/** @returns the call-outs that tell by it, when there are any; it stays then */
export async function deleteChannel(db: Db, channelId: number, who: string): Promise<string[]> {
  return within(db, async (trx) => {
    const users = (await listCallOuts(trx)).filter(({ callOut }) =>
      callOut.steps.some(({ action: does }) => does.do === 'notify' && does.channelId === channelId),
    )
    if (users.length > 0) return users.map(({ callOut }) => callOut.name)
    const row = await trx
      .deleteFrom('channel')
      .where('id', '=', channelId)
      .returning('name')
      .executeTakeFirst()
    if (row !== undefined) await recordChange(trx, who, `deleted the channel “${row.name}”`)
    await announce(trx, { topic: 'callouts' })
    return []
  })
}

/** Of each channel: when something last went through, and what has not gone through though its time has come. */
export async function channelHealth(db: Db, now: Date) {
  const [rows, stuck] = await Promise.all([
    db
      .selectFrom('channel')
      .leftJoin('message', 'message.channelId', 'channel.id')
      .select((eb) => [
        'channel.id',
        'channel.name',
        'channel.kind',
        eb.fn.max('message.sentAt').filterWhere('message.isFailed', '=', false).as('throughAt'),
      ])
      .groupBy(['channel.id', 'channel.name', 'channel.kind'])
      .orderBy('channel.id')
      .execute(),
    db
      .selectFrom('message')
      .select((eb) => [
        'channelId',
        eb.fn.countAll<string>().as('count'),
        eb.fn.min('dueAt').as('since'),
        sql<string | null>`(array_agg(answer order by tried_at desc nulls last))[1]`.as('answer'),
      ])
      .where('sentAt', 'is', null)
      .where('skipped', 'is', null)
      .where('isFailed', '=', false)
      .where('attempts', '>', 0)
      .where('dueAt', '<=', now)
      .groupBy('channelId')
      .execute(),
  ])
  return rows.map((row) => {
    const own = stuck.find(({ channelId }) => channelId === row.id)
    return {
      ...row,
      stuck: Number(own?.count ?? 0),
      stuckSince: own?.since ?? null,
      answer: own?.answer ?? null,
    }
  })
}

export const findChannel = (db: Db, id: number) =>
  db
    .selectFrom('channel')
    .select(['name', 'kind', 'settings', 'sealedSecret'])
    .where('id', '=', id)
    .executeTakeFirst()
