import { type Kysely, sql } from 'kysely'

/**
 * Who was turned away is listed by address. What pending senders have pushed is counted in bytes, and one that was refused
 * is remembered for a while only. In a demo all devices speak from one address, which passes on the lines of all.
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
    update pending_sender set refused_at = now() where is_refused;
    insert into setting (key, body)
      select 'texts', '{"days": 90, "megabytes": 2000, "relays": ["127.0.0.1"]}' from setting where key = 'demo'
      on conflict (key) do update set body = setting.body || '{"relays": ["127.0.0.1"]}';`.execute(db)
}
