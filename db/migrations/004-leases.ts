import { type Kysely, sql } from 'kysely'

/** Which collector asks a source, until when; and which collectors there are. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table collector (
      name text primary key,
      started_at timestamptz not null default now(),
      seen_at timestamptz not null default now()
    );
    alter table source add column lease_holder text, add column lease_until timestamptz;
  `.execute(db)
}
