import { type Kysely, sql } from 'kysely'

/** Measures of the site, beside those that ship. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table own_measure (
      key text primary key check (key ~ '^[a-z][a-z0-9_]*(\\.[a-z0-9_]+)+$'),
      body jsonb not null,
      made_by text not null,
      made_at timestamptz not null default now()
    );
    create trigger keep_what_differs after insert or update or delete on own_measure
      for each row when (coalesce(current_setting('rack.act', true), '') <> '')
      execute function keep_what_differs()`.execute(db)
}
