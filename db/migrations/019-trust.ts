import { type Kysely, sql } from 'kysely'

/**
 * Who was turned away is listed by address. What pending senders have pushed is counted in bytes, and one that was refused
 * is remembered for a while only.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table turned_away (
      address text not null,
      what text not null,
      reason text not null,
      count int not null,
      first_at timestamptz not null,
      last_at timestamptz not null,
      primary key (address, what)
    );
    alter table pending_push add column bytes int not null default 0;
    update pending_push set bytes = octet_length(moments::text);
    alter table pending_sender add column refused_at timestamptz;
    update pending_sender set refused_at = now() where is_refused;`.execute(db)
}
