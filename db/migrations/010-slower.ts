import { type Kysely, sql } from 'kysely'

/** Measures that are kept less often than their source is asked; sources whose rows hold now these series, now those. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    -- Seconds by measure.
    alter table source add column slower jsonb not null default '{}';
    -- How many rows back the newest value of a series may stand.
    alter table source add column latest_rows int not null default 1;
    create index source_of_several_rows on source (id) where latest_rows > 1;
  `.execute(db)
}
