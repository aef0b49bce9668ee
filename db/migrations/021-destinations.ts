import { type Kysely, sql } from 'kysely'

/**
 * A credential names where it may go. What is kept already may go where its sources are, and in the open where it went so
 * before.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table credential add column hosts text[] not null default '{}', add column in_clear text;
    update credential set
      hosts = used.hosts,
      in_clear = case when used.is_clear then 'it went so before credentials named where they may go' end
    from (
      select credential_id, bool_or(address like 'http://%') as is_clear,
        array_agg(distinct lower(substring(address from '^(?:[a-zA-Z0-9+.-]+://)?(?:\\[([^]]+)\\]|[^:/]+)'))) filter (where address like '%[%')
          || array_agg(distinct lower(substring(address from '^(?:[a-zA-Z0-9+.-]+://)?([^:/\\[]+)'))) filter (where address not like '%[%') as hosts
      from source where credential_id is not null group by credential_id
    ) used where used.credential_id = credential.id;
    update credential set hosts = '{}' where hosts is null;
    update credential set hosts = array_remove(hosts, null);`.execute(db)
}
