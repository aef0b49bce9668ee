import { type Kysely, sql } from 'kysely'

/**
 * What readings of each measure and age take is surveyed with the size, for it takes a look at everything that is stored.
 * How far a demo is laid down is a setting of the demo; what a
 * message says names the team that is notified.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table space_survey add column shares jsonb;
    update setting set key = 'demo' where key = 'past';
    update message set facts = facts - 'told' || jsonb_build_object('team', facts->'told') where facts ? 'told';`.execute(
    db,
  )
}
