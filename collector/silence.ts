import type { NoDataRule } from '#core/rules'
import { failureSentence, freshness, silenceSentence } from '#core/sources'
import { clearAlert, openAlert, openAlertsOf } from '#db/alerts'
import type { Db } from '#db/connect'
import { announce } from '#db/live'
import { listRules } from '#db/rules'
import { clockOf, listSources } from '#db/sources'
import { formatElapsed } from '#core/units'
import type { Teller } from './teller.ts'

/**
 * Looks at every source for silence. A source is given its whole three intervals after the collector's own start:
 * what was not heard while nobody listened says nothing about the source.
 */
export class Silence {
  constructor(
    private readonly db: Db,
    private readonly teller: Teller,
    private readonly startedAtMs: number,
  ) {}

  async look(nowMs: number): Promise<void> {
    const rule = (await listRules(this.db)).find((each): each is NoDataRule => each.kind === 'noData')
    if (rule === undefined) return
    for (const source of await listSources(this.db)) {
      const clock = clockOf(source)
      const heardMs = clock.lastHeardAtMs === null ? null : Math.max(clock.lastHeardAtMs, this.startedAtMs)
      const createdAtMs = Math.max(clock.createdAtMs, this.startedAtMs)
      const state = freshness({ ...clock, createdAtMs, lastHeardAtMs: heardMs }, nowMs, rule.intervals)
      const open = (await openAlertsOf(this.db, source.id)).find(
        (alert) => alert.ruleKey === rule.key && alert.sourceId !== null,
      )
      const at = new Date(nowMs)
      if (state === 'silent' && open === undefined) {
        const title = silenceSentence(source.name, clock, nowMs)
        const reason =
          source.failure === null ? 'It was expected to be heard by itself.' : failureSentence(source.failure)
        await this.db.transaction().execute(async (trx) => {
          const id = await openAlert(trx, {
            ruleKey: rule.key,
            seriesId: null,
            sourceId: source.id,
            gearId: null,
            partId: null,
            measure: null,
            severity: rule.severity,
            title,
            reason,
            sinceAt: new Date(clock.lastHeardAtMs ?? clock.createdAtMs),
            openedAt: at,
          })
          if (id !== null)
            await this.teller.tell(trx, { alertId: id, event: 'opened', title, reason, atMs: nowMs })
          await announce(trx, { topic: 'sources', sourceId: source.id })
        })
      }
      if (state === 'fresh' && open !== undefined) {
        const reason = `Heard again after ${formatElapsed(nowMs - open.openedAt.getTime())}.`
        await this.db.transaction().execute(async (trx) => {
          if (await clearAlert(trx, open.id, at, reason)) {
            await this.teller.tellCleared(trx, {
              alertId: open.id,
              title: `${source.name} is heard again`,
              reason,
              atMs: nowMs,
            })
          }
        })
      }
    }
  }
}
