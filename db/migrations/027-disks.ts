import { type Kysely, sql } from 'kysely'

/** The last page of each drive as it came, what makers promise of their models, and which drive was where and when. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table drive_page (
      part_id int primary key references part (id) on delete cascade,
      kind text not null check (kind in ('nvme-health', 'ata-smart')),
      data bytea not null check (octet_length(data) = 512),
      thresholds bytea check (octet_length(thresholds) = 512),
      read_at timestamptz not null
    );
    create table drive_rating (
      model text primary key check (length(model) between 1 and 100),
      rated_bytes float8 not null check (rated_bytes > 0),
      origin text not null check (length(origin) between 1 and 200),
      made_by text not null,
      made_at timestamptz not null default now()
    );
    create trigger keep_what_differs after insert or update or delete on drive_rating
      for each row when (coalesce(current_setting('rack.act', true), '') <> '')
      execute function keep_what_differs();
    create table drive_pace (
      part_id int primary key references part (id) on delete cascade,
      written_daily float8 not null,
      days float8 not null,
      made_at timestamptz not null default now()
    );
    create table drive_service (
      id int generated always as identity primary key,
      part_id int not null references part (id) on delete cascade,
      serial text not null,
      model text,
      since timestamptz not null default now(),
      until timestamptz
    );
    create unique index on drive_service (part_id) where until is null;
    create index on drive_service (serial);
    insert into drive_service (part_id, serial, model)
      select id, facts ->> 'serial', facts ->> 'model' from part
      where kind = 'drive' and coalesce(facts ->> 'serial', '') <> '';
    -- Whoever writes a part: another serial number in a bay is another drive.
    create function keep_drive_service() returns trigger language plpgsql as $$
    begin
      if coalesce(new.facts ->> 'serial', '') = '' then return null; end if;
      if exists (select 1 from drive_service where part_id = new.id and until is null and serial = new.facts ->> 'serial')
        then return null; end if;
      update drive_service set until = now() where part_id = new.id and until is null;
      insert into drive_service (part_id, serial, model) values (new.id, new.facts ->> 'serial', new.facts ->> 'model');
      return null;
    end $$;
    create trigger keep_drive_service after insert or update of facts on part
      for each row when (new.kind = 'drive') execute function keep_drive_service()`.execute(db)
}
