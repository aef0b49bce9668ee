import { type Kysely, sql } from 'kysely'

/** When the batteries of a UPS were put in, and how long they are made for. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table battery (
      gear_id integer primary key references gear on delete cascade,
      installed date not null,
      years double precision not null check (years between 1 and 25),
      who text not null,
      at timestamptz not null default now()
    )`.execute(db)
}
