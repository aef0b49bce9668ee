import { sql } from 'kysely'
import { clearAlert, openAlert, BLIND_RULE, READER } from '#db/alerts'
import type { Db } from '#db/platform'
import type { Teller } from '../notify/notifier.ts'

/** Fewer silent sources than this are troubles of their own. */
const LEAST = 4
/** From this share of what a collector reads on, it is the collector, or its way there, that is the trouble. */
const SHARE = 0.5

/**
 * Notices that a collector hears most of its sources no more: one alert, «blind here», in the place of one for each.
 * What is pushed to us counts as read by one collector.
 */
export class Blindness {
  constructor(
    private readonly db: Db,
    private readonly teller: Teller,
  ) {}

  async look(nowMs: number): Promise<void> {
    const { rows } = await sql<{ reader: string; total: number; silent: number[]; sinceMs: number | null }>`
      select ${READER} as reader,
        count(*)::int as total,
        coalesce(array_agg(source.id order by source.id) filter (where alert.id is not null), '{}') as silent,
        extract(epoch from min(alert.since_at))::float8 * 1000 as "sinceMs"
      from source left join alert on alert.source_id = source.id and alert.series_id is null and alert.cleared_at is null
      group by 1`.execute(this.db)
    const open = await this.db
      .selectFrom('alert')
      .select(['id', 'subject', 'title'])
      .where('ruleKey', '=', BLIND_RULE)
      .where('clearedAt', 'is', null)
      .execute()
    const at = new Date(nowMs)
    for (const alert of open) {
      const reader = rows.find((each) => alert.subject === `collector ${each.reader}`)
      // It stays for as long as a quarter is silent: half of them may come back one after the other.
      if (reader !== undefined && reader.silent.length >= Math.max(2, reader.total * (SHARE / 2))) continue
      const reason = `${(reader?.total ?? 0) - (reader?.silent.length ?? 0)} of ${reader?.total ?? 0} sources are heard again.`
      await this.db.transaction().execute(async (trx) => {
        if (await clearAlert(trx, alert.id, at, reason))
          await this.teller.tellCleared(trx, { alertId: alert.id, title: alert.title, reason, atMs: nowMs })
      })
    }
    for (const { reader, total, silent, sinceMs } of rows) {
      if (silent.length < LEAST || silent.length < total * SHARE) continue
      if (open.some((alert) => alert.subject === `collector ${reader}`)) continue
      const who = reader === 'pushes' ? 'What is pushed to us' : `The collector ${reader}`
      const title = `Blind here: ${silent.length} of ${total} sources are not heard`
      const reason = `${who} hears ${total - silent.length} of ${total}; its own network, or it, is the likeliest cause. Nothing is known of what they watch.`
      await this.db.transaction().execute(async (trx) => {
        const id = await openAlert(trx, {
          ruleKey: BLIND_RULE,
          seriesId: null,
          sourceId: null,
          gearId: null,
          partId: null,
          measure: null,
          subject: `collector ${reader}`,
          severity: 'critical',
          title,
          reason,
          line: `${Math.round(SHARE * 100)} % of the sources of a collector, at least ${LEAST}`,
          value: silent.length,
          sinceAt: new Date(sinceMs ?? nowMs),
          openedAt: at,
        })
        if (id !== null)
          await this.teller.tell(trx, { alertId: id, event: 'opened', title, reason, atMs: nowMs })
      })
    }
  }
}
