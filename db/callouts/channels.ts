import { sql } from 'kysely'
import { z } from 'zod'
import type { MeansKind } from '#core/callouts'
import { listCallOuts } from './callouts.ts'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { recordChange } from '../platform/settings.ts'

/** What each kind of means needs to know. Secrets are kept apart, sealed. */
export const MEANS_FORMS = {
  mail: z.object({
    host: z.string().trim().min(1, 'Enter the host of the mail server'),
    port: z.coerce.number('A port is a number').int().min(1).max(65535, 'A port is at most 65535'),
    from: z.email('Enter the address that mail comes from, like rack@example.org'),
    username: z.string().trim().default(''),
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
} as const satisfies Record<MeansKind, z.ZodType>
export type MeansSettings<K extends MeansKind> = z.infer<(typeof MEANS_FORMS)[K]>

export interface MeansRow {
  readonly id: number
  readonly name: string
  readonly kind: MeansKind
  readonly settings: Readonly<Record<string, unknown>>
  readonly hasSecret: boolean
}

export async function listMeans(db: Db): Promise<MeansRow[]> {
  const rows = await db.selectFrom('means').selectAll().orderBy('id').execute()
  return rows.map(({ id: meansId, name, kind, settings, sealedSecret }) => ({
    id: meansId,
    name,
    kind,
    settings,
    hasSecret: sealedSecret !== null,
  }))
}

export interface NewMeans {
  readonly name: string
  readonly kind: MeansKind
  readonly settings: Readonly<Record<string, unknown>>
  /** `undefined` keeps the one there is. */
  readonly sealedSecret: Buffer | null | undefined
}

/** @returns `null` when another has its name */
export async function saveMeans(
  db: Db,
  meansId: number | null,
  { name, kind, settings, sealedSecret }: NewMeans,
  who: string,
): Promise<number | null> {
  return within(db, async (trx) => {
    const other = await trx.selectFrom('means').select('id').where('name', '=', name).executeTakeFirst()
    if (other !== undefined && other.id !== meansId) return null
    const values = { name, kind, settings: JSON.stringify(settings) }
    const kept =
      meansId === null
        ? await trx
            .insertInto('means')
            .values({ ...values, sealedSecret: sealedSecret ?? null })
            .returning('id')
            .executeTakeFirstOrThrow()
        : await trx
            .updateTable('means')
            .set({ ...values, ...(sealedSecret === undefined ? {} : { sealedSecret }) })
            .where('id', '=', meansId)
            .returning('id')
            .executeTakeFirst()
    if (kept === undefined) return null
    await recordChange(trx, who, `${meansId === null ? 'made' : 'changed'} the means «${name}»`)
    await announce(trx, { topic: 'callouts' })
    return kept.id
  })
}

/** @returns the call-outs that tell by it, when there are any; it stays then */
export async function deleteMeans(db: Db, meansId: number, who: string): Promise<string[]> {
  return within(db, async (trx) => {
    const users = (await listCallOuts(trx)).filter(({ callOut }) =>
      callOut.steps.some(({ deed: does }) => does.do === 'tell' && does.meansId === meansId),
    )
    if (users.length > 0) return users.map(({ callOut }) => callOut.name)
    const row = await trx.deleteFrom('means').where('id', '=', meansId).returning('name').executeTakeFirst()
    if (row !== undefined) await recordChange(trx, who, `deleted the means «${row.name}»`)
    await announce(trx, { topic: 'callouts' })
    return []
  })
}

/** Of each means: when something last went through, and what has not gone through though its time has come. */
export async function meansHealth(db: Db, now: Date) {
  const [rows, stuck] = await Promise.all([
    db
      .selectFrom('means')
      .leftJoin('message', 'message.meansId', 'means.id')
      .select((eb) => [
        'means.id',
        'means.name',
        'means.kind',
        eb.fn.max('message.sentAt').filterWhere('message.isFailed', '=', false).as('throughAt'),
      ])
      .groupBy(['means.id', 'means.name', 'means.kind'])
      .orderBy('means.id')
      .execute(),
    db
      .selectFrom('message')
      .select((eb) => [
        'meansId',
        eb.fn.countAll<string>().as('count'),
        eb.fn.min('dueAt').as('since'),
        sql<string | null>`(array_agg(answer order by tried_at desc nulls last))[1]`.as('answer'),
      ])
      .where('sentAt', 'is', null)
      .where('skipped', 'is', null)
      .where('isFailed', '=', false)
      .where('attempts', '>', 0)
      .where('dueAt', '<=', now)
      .groupBy('meansId')
      .execute(),
  ])
  return rows.map((row) => {
    const own = stuck.find(({ meansId }) => meansId === row.id)
    return {
      ...row,
      stuck: Number(own?.count ?? 0),
      stuckSince: own?.since ?? null,
      answer: own?.answer ?? null,
    }
  })
}

export const findMeans = (db: Db, id: number) =>
  db.selectFrom('means').select(['name', 'kind']).where('id', '=', id).executeTakeFirst()
