import { type Kysely, sql } from 'kysely'

/** One word for one thing: a sender that waits to be claimed is pending. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table waiting_sender rename to pending_sender;
    alter table waiting_push rename to pending_push;`.execute(db)
}
