import { type Kysely, sql } from 'kysely'

/** People, teams, who is on duty, means of telling and call-outs; the one mail setting of before becomes one of each. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create table person (
      id int generated always as identity primary key,
      name text not null unique,
      email text,
      phone text
    );
    create table team (
      id int generated always as identity primary key,
      name text not null unique,
      duty jsonb
    );
    create table team_member (
      team_id int not null references team on delete cascade,
      person_id int not null references person on delete cascade,
      primary key (team_id, person_id)
    );
    create index on team_member (person_id);
    create table means (
      id int generated always as identity primary key,
      name text not null unique,
      kind text not null check (kind in ('mail', 'text', 'hook', 'screen')),
      settings jsonb not null,
      sealed_secret bytea,
      created_at timestamptz not null default now()
    );
    create table call_out (
      id int generated always as identity primary key,
      name text not null unique,
      is_on boolean not null default true,
      body jsonb not null,
      created_by text,
      created_at timestamptz not null default now()
    );
    alter table collector
      add column workers text[] not null default '{}',
      add column health jsonb;
    create table heartbeat (
      id int generated always as identity primary key,
      direction text not null check (direction in ('out', 'in')),
      name text not null unique,
      url text,
      sealed_secret bytea,
      token_hash bytea unique,
      interval_seconds int not null,
      since timestamptz not null default now(),
      tried_at timestamptz,
      through_at timestamptz,
      answer text
    );
    create table allowed_command (
      collector text not null,
      name text not null,
      words text not null,
      heard_at timestamptz not null default now(),
      primary key (collector, name)
    );

    alter table message
      alter column alert_id drop not null,
      add column call_out_id int references call_out on delete set null,
      add column step int not null default 0,
      add column deed text not null default 'tell' check (deed in ('tell', 'command', 'stop')),
      add column means_id int references means on delete set null,
      add column target jsonb,
      add column facts jsonb,
      add column due_at timestamptz,
      add column tried_at timestamptz,
      add column is_failed boolean not null default false,
      add column is_dry boolean not null default false;
    update message set due_at = created_at;
    alter table message alter column due_at set not null, alter column due_at set default now();
    alter table message drop constraint if exists message_event_check;
    create index on message (call_out_id, step, due_at);
    create index on message (means_id, due_at) where sent_at is null and skipped is null and not is_failed;
    create index on message (due_at desc);
    create index on alert (rule_key, subject, opened_at desc);

    with mail as (select body from setting where key = 'mail'),
      made_means as (
        insert into means (name, kind, settings, sealed_secret)
        select 'Mail', 'mail',
          jsonb_build_object('host', body->>'host', 'port', (body->>'port')::int, 'from', body->>'from',
            'username', coalesce(body->>'username', '')),
          decode(body->>'sealedPassword', 'base64')
        from mail returning id),
      made_team as (insert into team (name) select body->>'team' from mail returning id),
      made_people as (
        insert into person (name, email)
        select distinct address, address from mail, jsonb_array_elements_text(body->'to') address returning id),
      made_members as (
        insert into team_member (team_id, person_id) select made_team.id, made_people.id from made_team, made_people
        returning team_id),
      made_address as (
        insert into setting (key, body) select 'web', jsonb_build_object('address', body->>'webAddress') from mail
        on conflict (key) do nothing returning key)
    insert into call_out (name, body)
      select 'Everything, by mail', jsonb_build_object(
        'name', 'Everything, by mail', 'severity', 'warning',
        'scope', jsonb_build_object('gearKind', null, 'partKind', null, 'where', jsonb_build_object('kind', 'everywhere')),
        'hours', null, 'outside', 'wait', 'holdOffMs', 600000, 'tellsCleared', true,
        'steps', jsonb_build_array(jsonb_build_object(
          'after', jsonb_build_object('kind', 'span', 'ms', 0), 'evenIfTaken', false,
          'deed', jsonb_build_object('do', 'tell', 'meansId', made_means.id,
            'to', jsonb_build_object('kind', 'team', 'teamId', made_team.id)))))
      from made_means, made_team;
    delete from setting where key = 'mail';
    -- What was on its way goes by the means and to the team that the setting has become.
    update message set means_id = (select min(id) from means),
        target = jsonb_build_object('to', jsonb_build_object('kind', 'team', 'teamId', (select min(id) from team)))
      where sent_at is null and skipped is null;

    -- Parts of words are found by an index where the server has the means for it; without, they are looked for.
    do $$ begin
      create extension if not exists pg_trgm;
      create index alert_words on alert using gin ((title || ' ' || reason) gin_trgm_ops);
    exception when others then
      raise notice 'alerts are searched without an index: %', sqlerrm;
    end $$;`.execute(db)
}
