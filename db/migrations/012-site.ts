import { type Kysely, sql } from 'kysely'

/** Sites, plans of rooms, faces of racks, places on the floor; links of parts and who told of them; groups, tags, the inventory. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    -- Rooms of other buildings. A room without one stands at the installation's own site.
    create table building (
      id int generated always as identity primary key,
      name text not null unique check (name <> '')
    );
    alter table room
      add column building_id int references building,
      -- Sizes and places on a plan are in millimetres; x to the right and y downwards from the upper left corner.
      add column width_mm int not null default 6000 check (width_mm between 1000 and 200000),
      add column depth_mm int not null default 4800 check (depth_mm between 1000 and 200000),
      add column tile_mm int not null default 600 check (tile_mm between 100 and 2000);
    alter table rack
      add column x_mm int,
      add column y_mm int,
      add column width_mm int not null default 600 check (width_mm between 100 and 2000),
      add column depth_mm int not null default 1000 check (depth_mm between 100 and 2000),
      -- Where its front looks, clockwise: 0 up the plan, 90 to the right, 180 down, 270 to the left.
      add column turn smallint not null default 180 check (turn in (0, 90, 180, 270)),
      add constraint rack_place check ((x_mm is null) = (y_mm is null));

    alter table gear add column face text check (face in ('front', 'rear', 'both', 'left', 'right'));
    update gear set face = 'both' where rack_id is not null;
    alter table gear add constraint gear_face check ((rack_id is null) = (face is null));
    alter table gear drop constraint gear_units_do_not_overlap;
    -- What is mounted on the front leaves the rear of its units free; a strip at the side takes no unit.
    alter table gear add constraint gear_units_do_not_overlap exclude using gist (
      rack_id with =,
      int4range(unit, unit + height_units) with &&,
      (case face when 'front' then int4range(0, 1) when 'rear' then int4range(1, 2) when 'left' then int4range(2, 3)
        when 'right' then int4range(3, 4) else int4range(0, 2) end) with &&
    ) where (rack_id is not null);

    create table floor_place (
      gear_id int primary key references gear on delete cascade,
      room_id int not null references room on delete cascade,
      x_mm int not null,
      y_mm int not null,
      width_mm int not null check (width_mm between 50 and 20000),
      depth_mm int not null check (depth_mm between 50 and 20000),
      turn smallint not null default 180 check (turn in (0, 90, 180, 270)),
      -- Of a rope: the corners of its way, x and y in turn.
      way int[] not null default '{}'
    );
    create index on floor_place (room_id);

    alter table link drop constraint link_pkey;
    alter table link
      add column id int generated always as identity primary key,
      add column from_part_id int references part on delete cascade,
      add column to_part_id int references part on delete cascade,
      -- Who told of it: a source, or a person who drew it.
      add column source_id int references source on delete cascade,
      add column who text,
      add constraint link_once unique nulls not distinct (kind, from_gear_id, to_gear_id, from_part_id, to_part_id, source_id);
    create index on link (from_gear_id);
    create index on link (to_gear_id);

    -- What a source says of a far end that another source sees, until that end is known.
    create table link_told (
      id int generated always as identity primary key,
      source_id int not null references source on delete cascade,
      kind text not null,
      gear_id int not null references gear on delete cascade,
      part_id int references part on delete cascade,
      is_from boolean not null,
      far jsonb not null,
      link_id int references link on delete set null
    );
    create index on link_told (source_id);

    create table gear_change (
      id int generated always as identity primary key,
      at timestamptz not null default now(),
      gear_id int not null references gear on delete cascade,
      part_id int references part on delete set null,
      what text not null,
      subject text not null,
      was text,
      became text,
      who text
    );
    create index on gear_change (gear_id, at desc);

    alter table gear add column warranty_ends date, add column own jsonb not null default '{}';
    create table own_field (
      id int generated always as identity primary key,
      name text not null unique check (name <> ''),
      kind text not null check (kind in ('text', 'number', 'date'))
    );
    create table saved_filter (
      id int generated always as identity primary key,
      name text not null unique check (name <> ''),
      query text not null,
      who text not null
    );
    create table tag_rule (
      id int generated always as identity primary key,
      tag text not null check (tag <> ''),
      body jsonb not null
    );
    create table gear_group (
      id int generated always as identity primary key,
      name text not null unique check (name <> ''),
      note text not null default '',
      rule text not null check (rule in ('any', 'all', 'atLeast')),
      least int not null default 1 check (least >= 1),
      unknown text not null default 'open' check (unknown in ('open', 'bad', 'well')),
      -- Members by tag, beside those that are named.
      tag text
    );
    create table gear_group_member (
      group_id int not null references gear_group on delete cascade,
      gear_id int not null references gear on delete cascade,
      primary key (group_id, gear_id)
    );
    create index on gear_group_member (gear_id);
  `.execute(db)
}
