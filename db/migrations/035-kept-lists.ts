import { type Kysely, sql } from 'kysely'

const ANY = 'insert or update or delete or truncate'
/** What changes of the tables of which lists are made that seldom change, and the lists that it changes. */
const CHANGES: readonly (readonly [what: string, table: string, ...lists: string[]])[] = [
  [ANY, 'site', 'site'],
  [ANY, 'setting', 'settings'],
  [ANY, 'building', 'places'],
  [ANY, 'room', 'places'],
  [ANY, 'rack', 'places', 'standing', 'scopes'],
  [ANY, 'floor_place', 'standing', 'scopes'],
  ['insert or delete or truncate', 'gear', 'standing', 'scopes'],
  [ANY, 'sighting', 'scopes'],
  [ANY, 'link', 'links'],
  ['update of name', 'part', 'links'],
  ['update of name', 'source', 'links'],
  [ANY, 'rule', 'rules'],
  [ANY, 'call_out', 'callOuts'],
  [ANY, 'tag_rule', 'tagRules', 'scopes'],
  [ANY, 'own_field', 'ownFields'],
  [ANY, 'gear_group', 'groups', 'scopes'],
  [ANY, 'gear_group_member', 'groups', 'scopes'],
  [ANY, 'gear_group_group', 'groups', 'scopes'],
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
    create function raise_lists(lists text[]) returns void language sql as $$
      insert into list_change (list) select unnest(lists) on conflict do nothing;
      delete from list_change where ctid = any(array(
        select ctid from list_change where list = any(lists) and at < clock_timestamp() - interval '1 day'
        limit 1000 for update skip locked));
    $$;
    create function list_changed() returns trigger language plpgsql as $$
    begin
      perform raise_lists(tg_argv);
      return null;
    end $$;
    create function gear_changed() returns trigger language plpgsql as $$
    begin
      if exists (
        select from before join after using (id)
        where (before.name, before.kind, before.merged_into, before.rack_id, before.unit, before.height_units, before.face,
            before.tags, before.facts -> 'cluster')
          is distinct from (after.name, after.kind, after.merged_into, after.rack_id, after.unit, after.height_units,
            after.face, after.tags, after.facts -> 'cluster'))
      then perform raise_lists(tg_argv);
      end if;
      return null;
    end $$;
    create trigger gear_changed after update on gear referencing old table as before new table as after
      for each statement execute function gear_changed('standing', 'links', 'scopes')`.execute(db)
  for (const [index, [what, table, ...lists]] of CHANGES.entries())
    await sql`
      create trigger ${sql.id(`list_changed_${index}`)} after ${sql.raw(what)} on ${sql.table(table)}
        for each statement execute function list_changed(${sql.join(lists.map((list) => sql.lit(list)))})`.execute(
      db,
    )
}
