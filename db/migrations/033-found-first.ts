import { type Kysely, sql } from 'kysely'

/** What must be ordered first is read without all else that runs out, what is counted without the forecasts themselves. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    create index forecast_first on forecast (order_by, run_out_at);
    drop index forecast_order_by;
    create index forecast_counted on forecast (verdict, topic, run_out_at);
    create index gear_by_name on gear (lower(name)) where merged_into is null`.execute(db)
}
