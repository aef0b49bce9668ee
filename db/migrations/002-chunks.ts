import { type Kysely, sql } from 'kysely'

/** Sealed readings, their summaries, and how long each measure is kept. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    -- Readings of one series over whole UTC days, encoded. Days are counted from 1970-01-01.
    create table chunk (
      series_id int not null references series on delete cascade,
      day int not null,
      days smallint not null check (days >= 1),
      readings int not null,
      first_ms bigint not null,
      last_ms bigint not null,
      data bytea not null,
      primary key (series_id, day)
    );
    alter table chunk alter column data set storage external;

    -- Summaries of one series over 30 days: hours, and a sketch of each day.
    create table summary (
      series_id int not null references series on delete cascade,
      period int not null,
      hours bytea not null,
      sketches bytea not null,
      primary key (series_id, period)
    );
    alter table summary alter column hours set storage external, alter column sketches set storage external;

    -- The newest sealed row of each source: what a source said last, however long ago.
    create table last_sealed (
      source_id int primary key references source on delete cascade,
      ts timestamptz not null,
      layout int not null,
      vals bytea not null
    );

    -- A second, different value for an instant that had one. The later value is the one that is read.
    create table correction (
      id bigint generated always as identity primary key,
      series_id int not null references series on delete cascade,
      at_ms bigint not null,
      was double precision not null,
      became double precision not null,
      noticed_at timestamptz not null default now()
    );
    create index on correction (series_id, at_ms);

    create table retention (
      measure text primary key,
      raw_days int not null check (raw_days between 1 and 36500),
      summary_days int not null check (summary_days >= raw_days)
    );

    -- The size of everything once a day, to see how it grows.
    create table space_survey (
      day int primary key,
      database_bytes bigint not null,
      free_bytes bigint
    );
  `.execute(db)
}
