import { type Kysely, sql } from 'kysely'

/** How long it takes from an order until it is there, where people have said so: of a sort of thing, narrowed to a tag or a gear. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table lead_time (
      id int generated always as identity primary key,
      topic text not null,
      tag text check (length(tag) between 1 and 64),
      gear_id int references gear (id) on delete cascade,
      days int not null check (days between 1 and 1000),
      made_by text not null,
      made_at timestamptz not null default now(),
      check (tag is null or gear_id is null),
      unique nulls not distinct (topic, tag, gear_id)
    );
    create trigger keep_what_differs after insert or update or delete on lead_time
      for each row when (coalesce(current_setting('rack.act', true), '') <> '')
      execute function keep_what_differs()`.execute(db)
}
