import { type Kysely, sql } from 'kysely'

/** What the words of a far side mean here, kept as data and used by many sources; what a far side told when it was checked. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table mapping (
      id int generated always as identity primary key,
      name text not null unique,
      protocol text not null,
      body jsonb not null,
      is_shipped boolean not null default false
    );
    alter table source add column mapping_id int references mapping;
    alter table check_run add column told jsonb;
  `.execute(db)
}
