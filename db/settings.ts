import { z } from 'zod'
import type { Db } from './connect.ts'

/** How and to whom mail goes out. The password is sealed like any credential. */
export const mailSetting = z.object({
  host: z.string().trim().min(1, 'Enter the host of the mail server'),
  port: z.number().int().min(1).max(65535),
  from: z.email('Enter the address that mail comes from'),
  team: z.string().trim().min(1, 'Enter the name of the team that is told'),
  to: z.array(z.email('Each recipient is a mail address')).min(1, 'Enter at least one recipient'),
  username: z.string().default(''),
  sealedPassword: z.string().nullable().default(null),
  /** Where a link in a mail leads. */
  webAddress: z.url(),
})
export type MailSetting = z.infer<typeof mailSetting>

export async function readMailSetting(db: Db): Promise<MailSetting | null> {
  const row = await db.selectFrom('setting').select('body').where('key', '=', 'mail').executeTakeFirst()
  return row === undefined ? null : mailSetting.parse(row.body)
}

export async function writeMailSetting(db: Db, setting: MailSetting): Promise<void> {
  const body = JSON.stringify(setting)
  await db
    .insertInto('setting')
    .values({ key: 'mail', body })
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

/** Who changed what, for the record. Never the secret itself. */
export async function recordChange(db: Db, who: string, what: string): Promise<void> {
  await db.insertInto('change').values({ who, what }).execute()
}
