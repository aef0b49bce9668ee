import { type Kysely, sql } from 'kysely'

/** Everything the first version keeps. Migrations only go forward and are never edited once landed. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table site (id int generated always as identity primary key, name text not null, time_zone text not null);
    create table setting (key text primary key, body jsonb not null);

    create table room (
      id int generated always as identity primary key,
      name text not null unique check (name <> ''),
      position int not null default 0
    );
    create table rack (
      id int generated always as identity primary key,
      room_id int not null references room,
      name text not null check (name <> ''),
      height_units int not null check (height_units between 1 and 60),
      position int not null default 0,
      unique (room_id, name)
    );

    create extension if not exists btree_gist;
    create table gear (
      id int generated always as identity primary key,
      name text not null,
      kind text not null,
      facts jsonb not null default '{}',
      rack_id int references rack,
      unit int check (unit >= 1),
      height_units int check (height_units >= 1),
      created_at timestamptz not null default now(),
      check ((rack_id is null) = (unit is null) and (unit is null) = (height_units is null)),
      constraint gear_units_do_not_overlap
        exclude using gist (rack_id with =, int4range(unit, unit + height_units) with &&) where (rack_id is not null)
    );
    create table gear_identity (
      kind text not null,
      value text not null,
      gear_id int not null references gear on delete cascade,
      primary key (kind, value)
    );
    create table part (
      id int generated always as identity primary key,
      gear_id int not null references gear on delete cascade,
      key text not null,
      kind text not null,
      name text not null,
      facts jsonb not null default '{}',
      is_present boolean not null default true,
      unique (gear_id, key)
    );
    create table link (
      kind text not null,
      from_gear_id int not null references gear on delete cascade,
      to_gear_id int not null references gear on delete cascade,
      primary key (kind, from_gear_id, to_gear_id)
    );

    create table credential (
      id int generated always as identity primary key,
      name text not null unique,
      kind text not null,
      sealed bytea not null,
      created_at timestamptz not null default now()
    );
    create table source (
      id int generated always as identity primary key,
      name text not null unique,
      protocol text not null,
      address text not null,
      settings jsonb not null default '{}',
      credential_id int references credential,
      token_hash bytea unique,
      interval_seconds int not null check (interval_seconds between 1 and 86400),
      created_at timestamptz not null default now(),
      last_attempt_at timestamptz,
      last_heard_at timestamptz,
      last_duration_ms int,
      failure jsonb,
      failed_at timestamptz,
      failures int not null default 0,
      check_requested_at timestamptz
    );
    create table sighting (
      source_id int not null references source on delete cascade,
      key text not null,
      gear_id int not null references gear on delete cascade,
      primary key (source_id, key)
    );
    create index on sighting (gear_id);

    create table series (
      id int generated always as identity primary key,
      source_id int not null references source on delete cascade,
      gear_id int not null references gear on delete cascade,
      part_id int references part on delete cascade,
      measure text not null,
      unique nulls not distinct (source_id, gear_id, part_id, measure)
    );
    create index on series (gear_id);
    -- Which series sits in which slot of a source's rows. Old rows keep the layout they were written with.
    create table layout (
      id int generated always as identity primary key,
      source_id int not null references source on delete cascade,
      series_ids int[] not null
    );
    create index on layout (source_id, id desc);
    -- One row per source and moment: float64 slots, little-endian, NaN for missing. One partition a day.
    create table hot (
      source_id int not null,
      ts timestamptz not null,
      layout int not null,
      vals bytea not null,
      primary key (source_id, ts)
    ) partition by range (ts);
    alter table hot alter column vals set storage external;

    create table rule (
      id int generated always as identity primary key,
      key text not null unique,
      body jsonb not null,
      is_default boolean not null
    );
    create table alert (
      id int generated always as identity primary key,
      rule_key text not null,
      series_id int references series on delete cascade,
      source_id int references source on delete cascade,
      gear_id int references gear on delete cascade,
      part_id int references part on delete cascade,
      measure text,
      severity text not null check (severity in ('critical', 'warning')),
      title text not null,
      reason text not null,
      since_at timestamptz not null,
      opened_at timestamptz not null,
      cleared_at timestamptz,
      cleared_reason text,
      taken_at timestamptz,
      taken_by text,
      check ((taken_at is null) = (taken_by is null))
    );
    create unique index one_open_alert_a_series on alert (rule_key, series_id)
      where cleared_at is null and series_id is not null;
    create unique index one_open_alert_a_source on alert (rule_key, source_id)
      where cleared_at is null and series_id is null;
    create index on alert (gear_id, opened_at desc);
    create index on alert (opened_at desc);
    create table alert_event (
      id int generated always as identity primary key,
      alert_id int not null references alert on delete cascade,
      at timestamptz not null,
      what text not null,
      who text,
      text text not null
    );
    create index on alert_event (alert_id);
    create table message (
      id uuid primary key,
      alert_id int not null references alert on delete cascade,
      recipients text[] not null,
      team text not null,
      subject text not null,
      body text not null,
      created_at timestamptz not null default now(),
      sent_at timestamptz,
      attempts int not null default 0,
      answer text
    );
    create index on message (alert_id);

    create table change (
      id int generated always as identity primary key,
      at timestamptz not null default now(),
      who text not null,
      what text not null
    );

    -- Accounts and sessions, in the shape the sign-in library expects.
    create table "user" (
      id text primary key,
      name text not null,
      email text not null unique,
      "emailVerified" boolean not null,
      image text,
      "createdAt" timestamptz not null default now(),
      "updatedAt" timestamptz not null default now(),
      role text not null check (role in ('see', 'operate', 'administer'))
    );
    create table session (
      id text primary key,
      "expiresAt" timestamptz not null,
      token text not null unique,
      "createdAt" timestamptz not null default now(),
      "updatedAt" timestamptz not null default now(),
      "ipAddress" text,
      "userAgent" text,
      "userId" text not null references "user" on delete cascade
    );
    create index on session ("userId");
    create table account (
      id text primary key,
      "accountId" text not null,
      "providerId" text not null,
      "userId" text not null references "user" on delete cascade,
      "accessToken" text,
      "refreshToken" text,
      "idToken" text,
      "accessTokenExpiresAt" timestamptz,
      "refreshTokenExpiresAt" timestamptz,
      scope text,
      password text,
      "createdAt" timestamptz not null default now(),
      "updatedAt" timestamptz not null default now()
    );
    create index on account ("userId");
    create table verification (
      id text primary key,
      identifier text not null,
      value text not null,
      "expiresAt" timestamptz not null,
      "createdAt" timestamptz not null default now(),
      "updatedAt" timestamptz not null default now()
    );
    create table "rateLimit" (
      id text primary key,
      key text not null unique,
      count int not null,
      "lastRequest" bigint not null
    );
  `.execute(db)
}
