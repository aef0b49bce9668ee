import { type Kysely, Migrator } from 'kysely'
import { DEFAULT_RULES } from '#core/rules'
import { SHIPPED_MAPS } from '#protocols/modbus'
import * as firstLight from '../migrations/001-first-light.ts'
import * as chunks from '../migrations/002-chunks.ts'
import * as connecting from '../migrations/003-connecting.ts'
import * as leases from '../migrations/004-leases.ts'
import * as waitingSenders from '../migrations/005-waiting-senders.ts'
import * as mappings from '../migrations/006-mappings.ts'
import * as texts from '../migrations/007-texts.ts'
import * as recognitions from '../migrations/008-recognitions.ts'
import * as oneThing from '../migrations/009-one-thing.ts'
import * as slower from '../migrations/010-slower.ts'
import * as itemParts from '../migrations/011-item-parts.ts'
import * as site from '../migrations/012-site.ts'
import * as rules from '../migrations/013-rules.ts'
import * as logs from '../migrations/014-logs.ts'
import * as callouts from '../migrations/015-callouts.ts'
import * as together from '../migrations/016-together.ts'
import type { Database } from './schema.ts'

const migrations = {
  '001-first-light': firstLight,
  '002-chunks': chunks,
  '003-connecting': connecting,
  '004-leases': leases,
  '005-waiting-senders': waitingSenders,
  '006-mappings': mappings,
  '007-texts': texts,
  '008-recognitions': recognitions,
  '009-one-thing': oneThing,
  '010-slower': slower,
  '011-item-parts': itemParts,
  '012-site': site,
  '013-rules': rules,
  '014-logs': logs,
  '015-callouts': callouts,
  '016-together': together,
}

/** Brings the database to the newest form and the shipped rules into force. Safe to run by several processes at once. */
export async function migrate(db: Kysely<Database>): Promise<void> {
  const migrator = new Migrator({ db, provider: { getMigrations: () => Promise.resolve(migrations) } })
  const { error } = await migrator.migrateToLatest()
  if (error !== undefined) throw error
  for (const rule of DEFAULT_RULES) {
    const body = JSON.stringify(rule)
    await db
      .insertInto('rule')
      .values({ key: rule.key, body, isDefault: true })
      .onConflict((conflict) =>
        conflict.column('key').doUpdateSet({ body }).where('rule.isDefault', '=', true),
      )
      .execute()
  }
  for (const { name, map } of SHIPPED_MAPS) {
    const body = JSON.stringify(map)
    await db
      .insertInto('mapping')
      .values({ name, protocol: 'modbus', body, isShipped: true })
      .onConflict((conflict) =>
        conflict.column('name').doUpdateSet({ body }).where('mapping.isShipped', '=', true),
      )
      .execute()
  }
}
