import { type Kysely, sql } from 'kysely'

/** Errors and graver of a gear are found without reading all else that it says. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`create index device_text_grave on device_text (gear_id, heard_at desc) where severity <= 3`.execute(
    db,
  )
}
