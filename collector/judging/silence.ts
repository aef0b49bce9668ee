import { byPrecedence, type KeptRule, type NoDataRule, scopeCovers } from '#core/rules'
import { failureSentence, freshness, silenceSentence } from '#core/sources'
import { formatElapsed } from '#core/units'
import { clearAlert, openAlert, openSourceAlerts } from '#db/alerts'
import type { Db } from '#db/platform'
import { announce } from '#db/platform'
import { listRules, type GearScope, listGearScopes } from '#db/rules'
import { clockOf, listSources } from '#db/sources'
import type { Teller } from '../notify/notifier.ts'

/**
 * Looks at every source for silence. A source is given its whole three intervals after the collector's own start, and
 * after the database was away: what was not heard while nobody listened, or is on disk still, says nothing about it.
 */
export class Silence {
  #isBlind = false

  constructor(
    private readonly db: Db,
    private readonly teller: Teller,
    private startedAtMs: number,
  ) {}

  async look(nowMs: number): Promise<void> {
    const [ruleOf, sources, alerts] = await Promise.all([
      this.#rules(),
      listSources(this.db),
      openSourceAlerts(this.db),
    ]).catch((error: unknown) => {
      this.#isBlind = true
      throw error
    })
    if (this.#isBlind) this.startedAtMs = nowMs
    this.#isBlind = false
    const at = new Date(nowMs)
    for (const source of sources) {
      const rule = ruleOf(source.id)
      const clock = clockOf(source)
      const heardMs = clock.lastHeardAtMs === null ? null : Math.max(clock.lastHeardAtMs, this.startedAtMs)
      const createdAtMs = Math.max(clock.createdAtMs, this.startedAtMs)
      const state =
        rule === null
          ? 'fresh'
          : freshness({ ...clock, createdAtMs, lastHeardAtMs: heardMs }, nowMs, rule.intervals)
      const own = alerts.filter((alert) => alert.sourceId === source.id)
      const open = own.find((alert) => alert.ruleKey === rule?.key)
      if (state === 'silent' && rule !== null && open === undefined) {
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
            subject: `source ${source.id}`,
            severity: rule.severity,
            title,
            reason,
            line: `not heard for ${rule.intervals} intervals`,
            sinceAt: new Date(clock.lastHeardAtMs ?? clock.createdAtMs),
            openedAt: at,
          })
          if (id !== null)
            await this.teller.tell(trx, { alertId: id, event: 'opened', title, reason, atMs: nowMs })
          await announce(trx, { topic: 'sources', sourceId: source.id })
        })
      }
      for (const alert of own) {
        if (alert === open && state !== 'fresh') continue
        const elapsed = formatElapsed(nowMs - alert.openedAt.getTime())
        const reason =
          alert === open && rule !== null
            ? `Heard again after ${elapsed}.`
            : 'Another rule is in force here now, or none.'
        await this.db.transaction().execute(async (trx) => {
          if (await clearAlert(trx, alert.id, at, reason)) {
            await this.teller.tellCleared(trx, {
              alertId: alert.id,
              title: `${source.name} is heard again`,
              reason,
              atMs: nowMs,
            })
          }
        })
      }
    }
  }

  /** The rule on a source: the most specific that covers any gear it tells of. */
  async #rules(): Promise<(sourceId: number) => NoDataRule | null> {
    const rules = (await listRules(this.db))
      .filter((kept) => kept.isOn && kept.rule.kind === 'noData')
      .sort(byPrecedence)
    const ruleIn = (kept: KeptRule | undefined): NoDataRule | null =>
      kept?.rule.kind === 'noData' ? kept.rule : null
    const isForAll = ({ rule: { scope } }: KeptRule): boolean =>
      scope.where.kind === 'everywhere' && scope.gearKind === null
    if (rules[0] === undefined || isForAll(rules[0])) return () => ruleIn(rules[0])
    const [scopes, sightings] = await Promise.all([
      listGearScopes(this.db),
      this.db.selectFrom('sighting').select(['sourceId', 'gearId']).execute(),
    ])
    const gearOf = new Map<number, GearScope[]>()
    for (const { sourceId, gearId } of sightings) {
      const scope = scopes.get(gearId)
      if (scope !== undefined) gearOf.set(sourceId, [...(gearOf.get(sourceId) ?? []), scope])
    }
    return (sourceId) =>
      ruleIn(
        rules.find(
          (kept) =>
            isForAll(kept) ||
            gearOf
              .get(sourceId)
              ?.some((gear) => scopeCovers(kept.rule.scope, { ...gear, partId: null, partKind: null })),
        ),
      )
  }
}
