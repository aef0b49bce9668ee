import { type Kysely, sql } from 'kysely'

/** Gear that people say is one, or two; tags. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table gear add column tags text[] not null default '{}';
    -- What was merged stays, unseen, so that it can be taken apart again.
    alter table gear add column merged_into int references gear on delete set null;
    create table gear_merge (
      id int generated always as identity primary key,
      kept_id int not null references gear on delete cascade,
      merged_id int not null references gear on delete cascade,
      at timestamptz not null default now(),
      who text not null,
      -- Sightings, identities, links and alerts that came along.
      moved jsonb not null,
      undone_at timestamptz,
      undone_by text
    );
    create table gear_apart (
      first_id int not null references gear on delete cascade,
      second_id int not null references gear on delete cascade,
      who text not null,
      at timestamptz not null default now(),
      primary key (first_id, second_id)
    );
  `.execute(db)
}
