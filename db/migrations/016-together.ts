import { type Kysely, sql } from 'kysely'

/** A call-out says how many messages a minute go out alone; of those that are there already it is five. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    update call_out set body = body || '{"mostAMinute": 5}' where not body ? 'mostAMinute';
    create index message_recent on message (call_out_id, step, sent_at) where sent_at is not null;`.execute(
    db,
  )
}
