import { type Kysely, sql } from 'kysely'

/** Rules of one's own, whom an alert is about in one word, its cause, what is quiet, and what is accepted. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table rule
      add column is_on boolean not null default true,
      add column created_at timestamptz not null default now(),
      add column created_by text;

    alter table alert
      add column subject text,
      add column line text,
      add column value float8,
      add column cause_id int references alert on delete set null,
      add column cause_path text,
      add column consequence text,
      add column flaps int not null default 0;
    update alert set subject = case
      when series_id is not null then 'series ' || series_id
      when source_id is not null then 'source ' || source_id
      else 'store' end;
    alter table alert alter column subject set not null;
    drop index one_open_alert_a_series, one_open_alert_a_source;
    create unique index one_open_alert_a_subject on alert (rule_key, subject) where cleared_at is null;
    create index on alert (cause_id) where cause_id is not null;
    create index on alert (cleared_at) where cleared_at is not null;
    create index on alert (series_id, rule_key, opened_at desc);

    -- quiet: nothing is told for a while. accept: this is as it should be, until it changes.
    create table quiet (
      id int generated always as identity primary key,
      what text not null check (what in ('quiet', 'accept')),
      scope jsonb not null,
      reason text not null check (reason <> ''),
      who text not null,
      created_at timestamptz not null default now(),
      starts_at timestamptz not null,
      -- null: until somebody ends it, or what is accepted changes
      ends_at timestamptz,
      -- a recurrence rule of RFC 5545; each time lasts as long as from starts_at to ends_at
      repeats text,
      -- as it was when it was accepted
      accepted jsonb,
      announced_at timestamptz,
      ended_at timestamptz,
      ended_by text,
      ended_why text,
      check (repeats is null or ends_at is not null),
      check ((what = 'accept') = (accepted is not null))
    );
    create index on quiet (ended_at) where ended_at is null;
    -- A rule run over what is stored, before it is saved. Some collector does it.
    create table rehearsal (
      id uuid primary key default gen_random_uuid(),
      requested_at timestamptz not null default now(),
      requested_by text not null,
      body jsonb not null,
      started_at timestamptz,
      finished_at timestamptz,
      -- set to have it stop
      cancelled_at timestamptz,
      done real not null default 0,
      result jsonb,
      problem text
    );
    -- What became of a message that was not sent, and why.
    alter table message
      add column event text not null default 'opened' check (event in ('opened', 'worse', 'cleared')),
      add column skipped text;
    alter table alert add column quiet_id int references quiet on delete set null;
  `.execute(db)
}
