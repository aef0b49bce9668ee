import { type Kysely, sql } from 'kysely'

/** Senders that push with a token of their own that nobody has claimed yet, and what they have pushed so far. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table waiting_sender (
      id int generated always as identity primary key,
      token_hash bytea not null unique,
      address text not null,
      first_at timestamptz not null,
      last_at timestamptz not null,
      pushes int not null,
      -- What it says of itself, of its last push: gear and how many readings.
      gear jsonb not null,
      readings int not null,
      is_refused boolean not null default false,
      source_id int references source on delete cascade
    );
    create table waiting_push (
      id bigint generated always as identity primary key,
      sender_id int not null references waiting_sender on delete cascade,
      heard_at timestamptz not null,
      moments jsonb not null
    );
    create index waiting_push_order on waiting_push (sender_id, id);
  `.execute(db)
}
