import { type Kysely, sql } from 'kysely'

/** Which part an item of a source is: several sources may tell of one part under keys of their own. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table source_item add column part_id int references part on delete set null`.execute(db)
}
