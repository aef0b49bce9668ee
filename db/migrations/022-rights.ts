import { type Kysely, sql } from 'kysely'

/**
 * A day of readings is made by a function that does only that, with the rights of who owns the tables: whoever may add
 * readings needs no right to make tables.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create function make_hot(day date) returns void language plpgsql security definer set search_path = pg_catalog, public as $$
    declare
      partition text := 'hot_' || to_char(day, 'YYYY_MM_DD');
    begin
      if to_regclass('public.' || partition) is null then
        execute format('create table if not exists public.%I partition of public.hot for values from (%L) to (%L)',
          partition, day || ' 00:00:00+00', (day + 1) || ' 00:00:00+00');
      end if;
    end $$;
    revoke all on function make_hot(date) from public;`.execute(db)
}
