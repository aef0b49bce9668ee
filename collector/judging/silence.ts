import { byPrecedence, type KeptRule, type NoDataRule, scopeCovers } from '#core/rules'
import {
  failureSentence,
  type Freshness,
  freshness,
  silenceSentence,
  silenceWeight,
  type SourceClock,
} from '#core/sources'
import { formatElapsed } from '#core/units'
import { openSourceAlerts } from '#db/alerts'
import { announce, type Db } from '#db/platform'
import { listRules, type GearScope, listGearScopes } from '#db/rules'
import { clockOf, gearOfSilent, type ListedSource, listSightings, listSources } from '#db/sources'
import type { AlertWriter } from './alertWriter.ts'

/**
 * Asked twice in vain, and once of that because what hangs on it was in trouble: it is not waited for until three intervals
 * are over.
 */
const isKnownGone = ({ failures, checkRequestedAt, lastHeardAt }: ListedSource): boolean =>
  failures >= 2 && checkRequestedAt !== null && lastHeardAt !== null && checkRequestedAt > lastHeardAt

type OpenSilence = Awaited<ReturnType<typeof openSourceAlerts>>[number]

/**
 * Looks at every source for silence. A source is given its whole three intervals after the collector's own start, and
 * after the database was away: what was not heard while nobody listened, or is on disk still, says nothing about it.
 */
export class Silence {
  #isBlind = false

  constructor(
    private readonly db: Db,
    private readonly alerts: AlertWriter,
    private startedAtMs: number,
  ) {}

  /** The clock was set: how long ago anything was is not known, and each source is given its whole intervals again. */
  clockSet(nowMs: number): void {
    this.startedAtMs = nowMs
  }

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
    for (const source of sources) {
      const own = alerts.filter((alert) => alert.sourceId === source.id)
      await this.#judge(source, ruleOf(source.id), own, nowMs)
    }
  }

  async #judge(
    source: ListedSource,
    rule: NoDataRule | null,
    own: readonly OpenSilence[],
    nowMs: number,
  ): Promise<void> {
    const state = rule === null ? 'fresh' : this.#freshness(source, rule, nowMs)
    const open = own.find((alert) => alert.ruleKey === rule?.key)
    if (state === 'silent' && rule !== null && open === undefined) await this.#open(source, rule, nowMs)
    for (const alert of own) {
      if (alert === open && state !== 'fresh') continue
      const elapsed = formatElapsed(nowMs - alert.openedAt.getTime())
      const reason =
        alert === open && rule !== null
          ? `Heard again after ${elapsed}.`
          : 'Another rule is in force here now, or none.'
      await this.alerts.clear(alert.id, { title: `${source.name} is heard again`, reason, atMs: nowMs })
    }
  }

  #freshness(source: ListedSource, rule: NoDataRule, nowMs: number): Freshness {
    const clock = this.#clockOf(source, nowMs)
    const createdAtMs = Math.max(clock.createdAtMs, this.startedAtMs)
    const lastHeardAtMs =
      clock.lastHeardAtMs === null ? null : Math.max(clock.lastHeardAtMs, this.startedAtMs)
    const state = freshness({ ...clock, createdAtMs, lastHeardAtMs }, nowMs, rule.intervals)
    return state === 'fresh' && isKnownGone(source) ? 'silent' : state
  }

  /** What was heard at a time that has not come yet was heard before the clock was set back: nobody knows how long ago. */
  #clockOf(source: ListedSource, nowMs: number): SourceClock {
    const clock = clockOf(source)
    const isAhead = clock.lastHeardAtMs !== null && clock.lastHeardAtMs > nowMs
    return isAhead ? { ...clock, lastHeardAtMs: Math.min(this.startedAtMs, nowMs) } : clock
  }

  async #open(source: ListedSource, rule: NoDataRule, nowMs: number): Promise<void> {
    const clock = this.#clockOf(source, nowMs)
    const { failure } = source
    await this.db.transaction().execute(async (trx) => {
      const { severity, why } = silenceWeight(await gearOfSilent(trx, source.id), rule.severity)
      const because = failure === null ? 'It was expected to be heard by itself.' : failureSentence(failure)
      const opening = {
        ruleKey: rule.key,
        subject: `source ${source.id}`,
        sourceId: source.id,
        severity,
        title: silenceSentence(source.name, clock, nowMs),
        reason: [why, because].filter(Boolean).join(' '),
        line: `not heard for ${rule.intervals} intervals`,
        sinceMs: clock.lastHeardAtMs ?? clock.createdAtMs,
        atMs: nowMs,
      }
      await this.alerts.open(opening, trx)
      await announce(trx, { topic: 'sources', sourceId: source.id })
    })
  }

  /** The rule on a source: the most specific that covers any gear it tells of. */
  async #gearOfSources(): Promise<ReadonlyMap<number, readonly GearScope[]>> {
    const [scopes, sightings] = await Promise.all([listGearScopes(this.db), listSightings(this.db)])
    const gearOf = new Map<number, GearScope[]>()
    for (const { sourceId, gearId } of sightings) {
      const scope = scopes.get(gearId)
      if (scope !== undefined) gearOf.set(sourceId, [...(gearOf.get(sourceId) ?? []), scope])
    }
    return gearOf
  }

  async #rules(): Promise<(sourceId: number) => NoDataRule | null> {
    const rules = (await listRules(this.db))
      .filter((kept) => kept.isOn && kept.rule.kind === 'noData')
      .sort(byPrecedence)
    const ruleIn = (kept: KeptRule | undefined): NoDataRule | null =>
      kept?.rule.kind === 'noData' ? kept.rule : null
    const isForAll = ({ rule: { scope } }: KeptRule): boolean =>
      scope.where.kind === 'everywhere' && scope.gearKind === null
    if (rules[0] === undefined || isForAll(rules[0])) return () => ruleIn(rules[0])
    const gearOf = await this.#gearOfSources()
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
