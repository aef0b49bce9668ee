import { z } from 'zod'
import type { Db } from './connect.ts'

/** Where a link in a message leads: the address under which people open the application. */
export async function readWebAddress(db: Db): Promise<string> {
  const row = await db.selectFrom('setting').select('body').where('key', '=', 'web').executeTakeFirst()
  return z.object({ address: z.url() }).safeParse(row?.body).data?.address ?? 'http://127.0.0.1:8460/'
}

export const writeWebAddress = (db: Db, address: string): Promise<void> =>
  writeSetting(db, 'web', { address })

/** Keeps something of the installation as a whole, in place of what was kept under this key. */
export async function writeSetting(db: Db, key: string, value: unknown): Promise<void> {
  const body = JSON.stringify(value)
  await db
    .insertInto('setting')
    .values({ key, body })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ body }))
    .execute()
}

/** How long what devices say is kept, and how much of it. */
export const textsSetting = z.object({
  days: z.number().int().min(1).max(3660),
  megabytes: z.number().int().min(10).max(1_000_000),
  /** Addresses and networks that pass on the lines of others: there, and only there, the name in a line says whose it is. */
  relays: z.array(z.string().max(64)).max(100).default([]),
})
export type TextsSetting = z.infer<typeof textsSetting>
const KEPT_TEXTS: TextsSetting = { days: 90, megabytes: 2000, relays: [] }

export async function readTextsSetting(db: Db): Promise<TextsSetting> {
  const row = await db.selectFrom('setting').select('body').where('key', '=', 'texts').executeTakeFirst()
  return textsSetting.safeParse(row?.body).data ?? KEPT_TEXTS
}

export async function writeTextsSetting(db: Db, setting: TextsSetting): Promise<void> {
  const body = JSON.stringify(setting)
  await db
    .insertInto('setting')
    .values({ key: 'texts', body })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ body }))
    .execute()
}

export interface Site {
  readonly name: string
  readonly timeZone: string
}

export async function readSite(db: Db): Promise<Site> {
  const row = await db.selectFrom('site').select(['name', 'timeZone']).orderBy('id').executeTakeFirst()
  return row ?? { name: 'New site', timeZone: 'UTC' }
}

export async function writeSite(db: Db, site: Site): Promise<void> {
  const updated = await db.updateTable('site').set(site).returning('id').executeTakeFirst()
  if (updated === undefined) await db.insertInto('site').values(site).execute()
}

/** Whether anybody has said what the site is called. */
export async function isSiteNamed(db: Db): Promise<boolean> {
  return (await db.selectFrom('site').select('id').executeTakeFirst()) !== undefined
}
