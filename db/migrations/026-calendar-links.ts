import { type Kysely, sql } from 'kysely'

/** Secret addresses under which a calendar of what is ahead is read: kept as hashes, of a person, and taken back with them. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table calendar_link (
      id int generated always as identity primary key,
      name text not null check (length(name) between 1 and 64),
      user_id text not null references "user" (id) on delete cascade,
      token_hash bytea not null unique,
      created_at timestamptz not null default now(),
      last_used_at timestamptz,
      unique (user_id, name)
    )`.execute(db)
}
