import { type Kysely, sql } from 'kysely'

/**
 * What an account needs to be invited, switched off and to have a second factor (columns as the sign-in library's plugins
 * expect them); one-time links and tokens as hashes; and a record that is only added to, of who did what from where. Who
 * acts is told to a transaction once (`rack.account`, `rack.address`, and one id for all of it, `rack.act`), and stands in
 * all that it records. What rows of what people set up were before and are after is kept by the database itself, so that
 * nothing that writes them can forget it; secrets and their hashes are left out.
 */
/** What people set up. What devices tell and what the collector keeps for itself is not written down. */
const SET_UP = [
  'rule',
  'call_out',
  'channel',
  'person',
  'team',
  'team_member',
  'source',
  'credential',
  'source_item',
  'mapping',
  'building',
  'room',
  'rack',
  'gear',
  'gear_apart',
  'floor_place',
  'gear_group',
  'gear_group_member',
  'tag_rule',
  'own_field',
  'link',
  'quiet',
  'setting',
  'site',
  'retention',
  'heartbeat',
  'allowed_command',
  'directory',
  'user',
  'api_token',
]

export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table "user"
      add column banned boolean not null default false,
      add column "banReason" text,
      add column "banExpires" timestamptz,
      add column "twoFactorEnabled" boolean not null default false,
      add column "lastSignInAt" timestamptz;
    alter table session add column "impersonatedBy" text;
    create table "twoFactor" (
      id text primary key,
      secret text not null,
      "backupCodes" text not null,
      "userId" text not null references "user" on delete cascade,
      verified boolean not null default true,
      "failedVerificationCount" int not null default 0,
      "lockedUntil" timestamptz
    );
    create index on "twoFactor" ("userId");

    create table account_link (
      token_hash bytea primary key,
      user_id text not null references "user" on delete cascade,
      purpose text not null check (purpose in ('invite', 'reset')),
      made_by text not null,
      expires_at timestamptz not null
    );
    create index on account_link (user_id);

    -- Where accounts come from that are not kept here: an issuer of OpenID Connect. One row, or none.
    create table directory (
      id int primary key default 1 check (id = 1),
      name text not null check (name <> ''),
      issuer text not null,
      client_id text not null,
      sealed bytea not null,
      groups_claim text not null,
      roles jsonb not null,
      is_on boolean not null default true
    );

    create table api_token (
      id int generated always as identity primary key,
      name text not null unique check (name <> ''),
      user_id text references "user" on delete cascade,
      role text not null check (role in ('see', 'operate', 'administer')),
      token_hash bytea not null unique,
      made_by text not null,
      created_at timestamptz not null default now(),
      expires_at timestamptz not null,
      last_used_at timestamptz
    );

    alter table change
      add column kind text not null default 'change' check (kind in ('change', 'sign-in', 'refusal')),
      add column outcome text not null default 'done' check (outcome in ('done', 'refused')),
      add column account_id text default nullif(current_setting('rack.account', true), ''),
      add column address text default nullif(current_setting('rack.address', true), ''),
      add column act uuid default nullif(current_setting('rack.act', true), '')::uuid;
    create table change_row (
      id int generated always as identity primary key,
      act uuid not null default current_setting('rack.act')::uuid,
      of text not null,
      name text,
      before jsonb,
      after jsonb
    );
    create index on change_row (act);
    create function keep_what_differs() returns trigger language plpgsql as $$
      declare
        secret constant text[] := '{sealed,sealed_secret,token_hash,password}';
        was jsonb := case when tg_op = 'INSERT' then null else to_jsonb(old) - secret end;
        now_is jsonb := case when tg_op = 'DELETE' then null else to_jsonb(new) - secret end;
        label text := coalesce(now_is ->> 'name', was ->> 'name', now_is ->> 'key', was ->> 'key', now_is ->> 'id', was ->> 'id');
      begin
        if tg_op = 'UPDATE' then
          select jsonb_object_agg(key, was -> key), jsonb_object_agg(key, now_is -> key) into was, now_is
            from jsonb_object_keys(now_is) as key where was -> key is distinct from now_is -> key;
          if now_is is null and to_jsonb(old) = to_jsonb(new) then return null; end if;
          was := coalesce(was, '{}');
          now_is := coalesce(now_is, '{}');
        end if;
        insert into change_row (of, name, before, after) values (tg_table_name, label, was, now_is);
        return null;
      end $$;
    create function record_is_only_added_to() returns trigger language plpgsql as $$
      begin
        raise exception 'the record of changes is only added to';
      end $$;
    create trigger only_added_to before update or delete or truncate on change
      for each statement execute function record_is_only_added_to();
    create trigger only_added_to before update or delete or truncate on change_row
      for each statement execute function record_is_only_added_to();
    `.execute(db)
  const { rows } = await sql<{ name: string }>`
    select table_name as name from information_schema.tables
    where table_schema = current_schema() and table_name = any(${SET_UP})`.execute(db)
  for (const { name } of rows)
    await sql`
      create trigger keep_what_differs after insert or update or delete on ${sql.table(name)}
        for each row when (coalesce(current_setting('rack.act', true), '') <> '')
        execute function keep_what_differs()`.execute(db)
}
