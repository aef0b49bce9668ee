import { type Kysely, sql } from 'kysely'

/** In which scale somebody reads temperatures is of the account. They are kept in °C. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table "user" add column temperatures text not null default 'celsius'
      check (temperatures in ('celsius', 'fahrenheit'))`.execute(db)
}
