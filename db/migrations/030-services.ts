import { type Kysely, sql } from 'kysely'

/** Groups may contain groups; one that people are promised is a service, with its owner, its level and its hours. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table gear_group
      add column is_service boolean not null default false,
      add column plain text not null default '' check (length(plain) <= 80),
      add column owner text not null default '' check (length(owner) <= 80),
      add column level double precision check (level > 0 and level < 1),
      -- Of the week; null is around the clock.
      add column hours jsonb;
    create table gear_group_group (
      group_id int not null references gear_group on delete cascade,
      member_id int not null references gear_group on delete cascade,
      primary key (group_id, member_id),
      check (group_id <> member_id)
    );
    create index on gear_group_group (member_id);
    create trigger keep_what_differs after insert or update or delete on gear_group_group
      for each row when (coalesce(current_setting('rack.act', true), '') <> '')
      execute function keep_what_differs()`.execute(db)
}
