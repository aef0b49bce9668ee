import { type Kysely, sql } from 'kysely'

const ANY = 'insert or update or delete or truncate'
/** What changes of the tables of which lists are made that seldom change, and the lists that it changes. */
const CHANGES: readonly (readonly [what: string, table: string, ...lists: string[]])[] = [
  [ANY, 'site', 'site'],
  [ANY, 'setting', 'settings'],
  [ANY, 'building', 'places'],
  [ANY, 'room', 'places'],
  [ANY, 'rack', 'places', 'standing'],
  [ANY, 'floor_place', 'standing'],
  ['insert or delete or truncate', 'gear', 'standing'],
  ['update of name, kind, merged_into, rack_id, unit, height_units, face', 'gear', 'standing', 'links'],
  [ANY, 'link', 'links'],
  ['update of name', 'part', 'links'],
  ['update of name', 'source', 'links'],
  [ANY, 'rule', 'rules'],
  [ANY, 'call_out', 'callOuts'],
  [ANY, 'tag_rule', 'tagRules'],
  [ANY, 'own_field', 'ownFields'],
  [ANY, 'gear_group', 'groups'],
  [ANY, 'gear_group_member', 'groups'],
  [ANY, 'gear_group_group', 'groups'],
]

/**
 * Which transactions have changed a list that processes keep: each asks what was changed since it last looked. A row a
 * transaction, so that none waits for another.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table list_change (
      list text not null,
      changed_by xid8 not null default pg_current_xact_id(),
      at timestamptz not null default clock_timestamp(),
      primary key (list, changed_by)
    );
    create function list_changed() returns trigger language plpgsql as $$
    begin
      insert into list_change (list) select unnest(tg_argv) on conflict do nothing;
      delete from list_change where ctid = any(array(
        select ctid from list_change where list = any(tg_argv) and at < clock_timestamp() - interval '1 day'
        limit 1000 for update skip locked));
      return null;
    end $$`.execute(db)
  for (const [index, [what, table, ...lists]] of CHANGES.entries())
    await sql`
      create trigger ${sql.id(`list_changed_${index}`)} after ${sql.raw(what)} on ${sql.table(table)}
        for each statement execute function list_changed(${sql.join(lists.map((list) => sql.lit(list)))})`.execute(
      db,
    )
}
