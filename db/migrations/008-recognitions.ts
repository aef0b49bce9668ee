import { type Kysely, sql } from 'kysely'

/** Addresses that somebody wants looked through, and what answers there. Kept for a day. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table recognition (
      id uuid primary key default gen_random_uuid(),
      requested_at timestamptz not null default now(),
      requested_by text not null,
      hosts text[] not null,
      tcp_ports int[] not null,
      udp_ports int[] not null,
      credential_ids int[] not null,
      started_at timestamptz,
      finished_at timestamptz,
      done int not null default 0,
      found jsonb not null default '[]'
    );
  `.execute(db)
}
