import { type Kysely, sql } from 'kysely'

/** What devices say by themselves: syslog messages and SNMP notifications. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table device_text (
      id bigint generated always as identity primary key,
      heard_at timestamptz not null,
      -- As the device says it, where it does.
      said_at timestamptz,
      address text not null,
      host text,
      source_id int references source on delete set null,
      gear_id int references gear on delete cascade,
      kind text not null,
      severity smallint not null,
      app text,
      body text not null,
      -- The same one after the other is kept once.
      times int not null default 1
    );
    create index device_text_of_gear on device_text (gear_id, heard_at desc);
    create index device_text_heard on device_text (heard_at);
    create index device_text_of_nobody on device_text (address, heard_at desc) where gear_id is null;
  `.execute(db)
}
