import { type Kysely, sql } from 'kysely'

/** How the pages look is of the account, and no more of each browser. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table "user" add column theme text not null default 'system'
      check (theme in ('light', 'dark', 'system'))`.execute(db)
}
