import { type RawBuilder, sql } from 'kysely'
import { type Db, within } from './connect.ts'

/** The roles of the database that the processes work as. Neither administers the server, nor could become who does. */
export const COLLECTOR_ROLE = 'rack_collector'
export const WEB_ROLE = 'rack_web'
export type Passwords = Readonly<Record<typeof COLLECTOR_ROLE | typeof WEB_ROLE, string>>

/**
 * Gives both roles what they need, and no more, whatever an earlier version or a restore has left: the collector owns the
 * tables, since it makes and drops the days of readings; the web process reads and writes rows, and of the record of
 * changes it may add alone. To be done as the server's administrator, after every migration.
 */
export async function giveRights(db: Db, passwords: Passwords): Promise<void> {
  await within(db, async (trx) => {
    const run = (...statements: RawBuilder<unknown>[]) =>
      statements.reduce(
        (before, statement) => before.then(() => statement.execute(trx)),
        Promise.resolve<unknown>(undefined),
      )
    for (const [role, password] of Object.entries(passwords)) {
      const { rows } = await sql`select from pg_roles where rolname = ${role}`.execute(trx)
      if (rows.length === 0) await sql`create role ${sql.id(role)}`.execute(trx)
      await sql`alter role ${sql.id(role)} with login nosuperuser nocreatedb nocreaterole noreplication
        password ${sql.lit(password)}`.execute(trx)
    }
    const [collector, web] = [sql.id(COLLECTOR_ROLE), sql.id(WEB_ROLE)]
    await run(
      own,
      sql`grant usage on schema public, graphile_worker to ${web}`,
      sql`grant select, insert, update, delete on all tables in schema public, graphile_worker to ${web}`,
      sql`grant usage, select on all sequences in schema public, graphile_worker to ${web}`,
      sql`grant execute on function make_hot(date) to ${web}`,
      openQueue,
      sql`revoke update, delete on change, change_row from ${web}`,
      sql`revoke insert, update, delete on kysely_migration, kysely_migration_lock from ${web}`,
      sql`alter default privileges for role ${collector} in schema public, graphile_worker
        grant select, insert, update, delete on tables to ${web}`,
      sql`alter default privileges for role ${collector} in schema public, graphile_worker
        grant usage, select on sequences to ${web}`,
    )
  })
}

/** Everything that is ours, and no part of the server or of an extension, belongs to the collector's role. */
const own = sql`
  do $$
  declare
    it record;
  begin
    for it in select nspname from pg_namespace where nspname in ('public', 'graphile_worker') loop
      execute format('alter schema %I owner to rack_collector', it.nspname);
    end loop;
    for it in
      select format('%s %s', case relkind when 'S' then 'sequence' when 'v' then 'view' when 'c' then 'type' else 'table' end,
        class.oid::regclass) as what
      from pg_class class join pg_namespace space on space.oid = relnamespace
      where nspname in ('public', 'graphile_worker') and relkind in ('r', 'p', 'S', 'v', 'c')
        and relowner <> 'rack_collector'::regrole
        and not exists (
          select from pg_depend where classid = 'pg_class'::regclass and objid = class.oid
            and (deptype = 'e' or relkind = 'S' and deptype in ('a', 'i')))
    loop
      execute format('alter %s owner to rack_collector', it.what);
    end loop;
    for it in
      select proc.oid::regprocedure as what
      from pg_proc proc join pg_namespace space on space.oid = pronamespace
      where nspname in ('public', 'graphile_worker') and proowner <> 'rack_collector'::regrole
        and not exists (
          select from pg_depend where classid = 'pg_proc'::regclass and objid = proc.oid and deptype = 'e')
    loop
      execute format('alter routine %s owner to rack_collector', it.what);
    end loop;
  end $$`

/** The tables of the queue let nobody at their rows but who owns them, until a policy says otherwise. */
const openQueue = sql`
  do $$
  declare
    it record;
  begin
    for it in
      select class.oid::regclass as name from pg_class class join pg_namespace space on space.oid = relnamespace
      where nspname = 'graphile_worker' and relrowsecurity
        and not exists (select from pg_policy where polrelid = class.oid and polname = 'rack_web')
    loop
      execute format('create policy rack_web on %s to rack_web using (true) with check (true)', it.name);
    end loop;
  end $$`
