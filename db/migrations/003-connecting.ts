import { type Kysely, sql } from 'kysely'

/** SNMP sources of any kind; checks that somebody asked for; what is watched of a source. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    update source set protocol = 'snmp' where protocol = 'snmp-ups';

    -- A check of a source that is, or is about to be: web asks, a collector does it and says how far it is.
    create table check_run (
      id uuid primary key default gen_random_uuid(),
      requested_at timestamptz not null default now(),
      requested_by text not null,
      source_id int references source on delete cascade,
      protocol text not null,
      address text not null,
      settings jsonb not null,
      credential_id int references credential on delete set null,
      -- A secret that was typed for this check and is not kept under a name yet; it goes with the check, after an hour.
      sealed bytea,
      started_at timestamptz,
      finished_at timestamptz,
      stages jsonb not null default '[]',
      certificate jsonb,
      findings jsonb,
      failure jsonb
    );
    create index check_run_waiting on check_run (requested_at) where started_at is null;

    -- What a source has shown: gear (part_key empty) and parts, and what is made of them.
    create table source_item (
      source_id int not null references source on delete cascade,
      gear_key text not null,
      part_key text not null default '',
      kind text not null,
      name text not null,
      state text not null check (state in ('watched', 'left', 'waiting')),
      why text,
      first_seen_at timestamptz not null,
      gone_at timestamptz,
      primary key (source_id, gear_key, part_key)
    );

    -- What becomes of things that appear later: taken at once, or kept waiting until somebody says.
    alter table source add column new_items text not null default 'take' check (new_items in ('take', 'ask'));
  `.execute(db)
}
