import { type Kysely, Migrator } from 'kysely'
import type { Rule } from '#core/rules'
import type { RegisterMap } from '#core/sources'
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
import * as words from '../migrations/017-words.ts'
import * as surveyedShares from '../migrations/018-surveyed-shares.ts'
import * as trust from '../migrations/019-trust.ts'
import * as people from '../migrations/020-people.ts'
import * as destinations from '../migrations/021-destinations.ts'
import * as rights from '../migrations/022-rights.ts'
import * as theme from '../migrations/023-theme.ts'
import * as ownMeasures from '../migrations/024-own-measures.ts'
import * as forecasts from '../migrations/025-forecasts.ts'
import * as calendarLinks from '../migrations/026-calendar-links.ts'
import * as disks from '../migrations/027-disks.ts'
import * as leadTimes from '../migrations/028-lead-times.ts'
import * as past from '../migrations/029-past.ts'
import * as services from '../migrations/030-services.ts'
import * as temperatures from '../migrations/031-temperatures.ts'
import * as graveTexts from '../migrations/032-grave-texts.ts'
import * as foundFirst from '../migrations/033-found-first.ts'
import * as batteries from '../migrations/034-batteries.ts'
import * as keptLists from '../migrations/035-kept-lists.ts'
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
  '017-words': words,
  '018-surveyed-shares': surveyedShares,
  '019-trust': trust,
  '020-people': people,
  '021-destinations': destinations,
  '022-rights': rights,
  '023-theme': theme,
  '024-own-measures': ownMeasures,
  '025-forecasts': forecasts,
  '026-calendar-links': calendarLinks,
  '027-disks': disks,
  '028-lead-times': leadTimes,
  '029-past': past,
  '030-services': services,
  '031-temperatures': temperatures,
  '032-grave-texts': graveTexts,
  '033-found-first': foundFirst,
  '034-batteries': batteries,
  '035-kept-lists': keptLists,
}

export type MigrationName = keyof typeof migrations

/** Brings the tables to what they were after a migration; `null`: to the newest form. */
export async function migrateTo(db: Kysely<Database>, name: MigrationName | null): Promise<void> {
  const migrator = new Migrator({ db, provider: { getMigrations: () => Promise.resolve(migrations) } })
  const { error } = await (name === null ? migrator.migrateToLatest() : migrator.migrateTo(name))
  if (error !== undefined) throw error
}

/** What comes along with the product: shipped rules, and register maps by name. */
export interface Seeds {
  readonly rules: readonly Rule[]
  readonly maps: readonly { readonly name: string; readonly map: RegisterMap }[]
}

/** Brings the database to the newest form and what is shipped into force. Safe to run by several processes at once. */
export async function migrate(db: Kysely<Database>, seeds: Seeds): Promise<void> {
  await migrateTo(db, null)
  for (const rule of seeds.rules) {
    const body = JSON.stringify(rule)
    await db
      .insertInto('rule')
      .values({ key: rule.key, body, isDefault: true })
      .onConflict((conflict) =>
        conflict.column('key').doUpdateSet({ body }).where('rule.isDefault', '=', true),
      )
      .execute()
  }
  for (const { name, map } of seeds.maps) {
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
