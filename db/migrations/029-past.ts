import { type Kysely, sql } from 'kysely'

/** Views of the past that people keep, and the times of the week at which something is known to run. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table past_view (
      id int generated always as identity primary key,
      name text not null unique check (length(name) between 1 and 80),
      query text not null check (length(query) <= 8000),
      made_by text not null,
      made_at timestamptz not null default now()
    );
    create trigger keep_what_differs after insert or update or delete on past_view
      for each row when (coalesce(current_setting('rack.act', true), '') <> '')
      execute function keep_what_differs();
    create table known_job (
      id int generated always as identity primary key,
      name text not null unique check (length(name) between 1 and 80),
      days int[] not null check (cardinality(days) between 1 and 7 and days <@ array[0,1,2,3,4,5,6]),
      from_minute int not null check (from_minute between 0 and 1439),
      minutes int not null check (minutes between 1 and 1440),
      made_by text not null,
      made_at timestamptz not null default now()
    );
    create trigger keep_what_differs after insert or update or delete on known_job
      for each row when (coalesce(current_setting('rack.act', true), '') <> '')
      execute function keep_what_differs()`.execute(db)
}
