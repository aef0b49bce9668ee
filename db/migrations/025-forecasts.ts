import { type Kysely, sql } from 'kysely'

/** What runs out, when, and how sure: one row for each finite series; and what people have said of it. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table forecast (
      series_id int primary key references series (id) on delete cascade,
      made_at timestamptz not null,
      topic text not null,
      verdict text not null check (verdict in ('crosses', 'not-in-sight', 'too-little', 'over')),
      run_out_at timestamptz,
      order_by timestamptz,
      body jsonb not null
    );
    create index forecast_order_by on forecast (order_by) where order_by is not null;
    create table forecast_order (
      id int generated always as identity primary key,
      series_id int not null references series (id) on delete cascade,
      words text not null check (length(words) between 1 and 200),
      expected_on date not null,
      made_by text not null,
      made_at timestamptz not null default now(),
      ended_at timestamptz
    );
    create index on forecast_order (series_id);
    create table forecast_mark (
      series_id int not null references series (id) on delete cascade,
      at timestamptz not null,
      is_growth boolean not null,
      made_by text not null,
      made_at timestamptz not null default now(),
      primary key (series_id, at, made_by)
    );
    create trigger keep_what_differs after insert or update or delete on forecast_order
      for each row when (coalesce(current_setting('rack.act', true), '') <> '')
      execute function keep_what_differs();
    create trigger keep_what_differs after insert or update or delete on forecast_mark
      for each row when (coalesce(current_setting('rack.act', true), '') <> '')
      execute function keep_what_differs()`.execute(db)
}
