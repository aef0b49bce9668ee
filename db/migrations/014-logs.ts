import { type Kysely, sql } from 'kysely'

/** What devices say is found by its words; how long and how much of it is kept is set. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table device_text add column words tsvector
      generated always as (to_tsvector('simple', coalesce(host, '') || ' ' || coalesce(app, '') || ' ' || body)) stored;
    create index device_text_words on device_text using gin (words);
  `.execute(db)
}
