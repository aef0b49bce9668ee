import {
  alertReason,
  alertTitle,
  clearedReason,
  isBeyond,
  lineWords,
  offReason,
  runsOnlyWhenOn,
  type SeriesRule,
  type Severity,
  silentReason,
  silentTitle,
  verdictOf,
} from '#core/rules'
import { isNextWordMeasure } from '#core/alerts'
import type { Db } from '#db/platform'
import { latestReadings } from '#db/readings'
import { listGearScopes, listRules, type SubjectRow } from '#db/rules'
import type { StoredMoment } from '../intake/delivery.ts'
import type { AlertWriter } from './alertWriter.ts'
import { type Change, writeChanges } from './changes.ts'
import {
  type Around,
  keyOf,
  makeReady,
  type OpenAlert,
  type RuleInstance,
  type SilentInstance,
  type SourceRules,
  alertFactsOf,
} from './sourceRules.ts'

/**
 * Judges the series of a source after each of its moments, and opens, changes and clears their alerts.
 * What it remembers can be read back from the database at any time, so a crash between storing and judging is mended
 * by the next moment. A moment older than the last one judged (a late push) is stored and not judged.
 */
export class Judgement {
  readonly #ready = new Map<number, SourceRules>()
  /** What is right but for the rules, tags and places it was made from. */
  readonly #stale = new Map<number, SourceRules>()
  #around: Promise<Around> | null = null

  constructor(
    private readonly db: Db,
    private readonly alerts: AlertWriter,
    private readonly now: () => number = Date.now,
  ) {}

  /** What was judged in between is not known any more, or the series are others. */
  forget(sourceId?: number): void {
    this.#around = null
    for (const known of [this.#ready, this.#stale])
      if (sourceId === undefined) known.clear()
      else known.delete(sourceId)
  }

  /** Rules, tags or places have changed: what was seen of each series up to now still counts. */
  refresh(): void {
    this.#around = null
    for (const [sourceId, known] of this.#ready) this.#stale.set(sourceId, known)
    this.#ready.clear()
  }

  async judgeMoment({ taken, seriesIds, values }: StoredMoment): Promise<void> {
    try {
      // A sender's clock may be ahead, and ours may have been: what is judged is never later than now.
      const nowMs = this.now()
      const atMs = Math.min(taken.atMs, nowMs)
      if ((this.#ready.get(taken.sourceId)?.lastAtMs ?? 0) > nowMs) this.forget(taken.sourceId)
      const known = await this.#rulesOn(taken.sourceId, atMs, seriesIds)
      if (atMs < known.lastAtMs) return
      await this.#judgeAll(known, atMs, seriesIds, values)
    } catch (error) {
      this.forget(taken.sourceId)
      throw error
    }
  }

  async #rulesOn(sourceId: number, atMs: number, seriesIds: readonly number[]): Promise<SourceRules> {
    const kept = this.#ready.get(sourceId)
    if (kept !== undefined && seriesIds.every((id) => kept.subjects.has(id))) return kept
    if (kept !== undefined) {
      // New gear may have tags and places of its own.
      this.#around = null
      this.#stale.set(sourceId, kept)
    }
    const before = this.#stale.get(sourceId)
    const made = await makeReady(this.db, await this.#knownAround(), { sourceId, atMs, before })
    this.#stale.delete(sourceId)
    this.#ready.set(sourceId, made)
    return made
  }

  #knownAround(): Promise<Around> {
    const known = (this.#around ??= Promise.all([listRules(this.db), listGearScopes(this.db)]).then(
      ([rules, scopes]) => ({ rules, scopes }),
    ))
    known.catch(() => {
      if (this.#around === known) this.#around = null
    })
    return known
  }

  /** Brings the newest readings of what other sources bring; what is older than three of its intervals is not known. */
  async #lookElsewhere(known: SourceRules, atMs: number): Promise<void> {
    if (known.elsewhere.size === 0) return
    const sourceIds = [...new Set([...known.elsewhere.values()].map(({ sourceId }) => sourceId))]
    const latest = await latestReadings(this.db, sourceIds)
    for (const [id, { freshMs }] of known.elsewhere) {
      const reading = latest.get(id)
      if (reading?.value != null && Math.abs(atMs - reading.atMs) <= freshMs)
        known.last.set(id, { atMs: reading.atMs, value: reading.value })
      else known.last.delete(id)
    }
  }

  async #judgeAll(
    known: SourceRules,
    atMs: number,
    seriesIds: readonly number[],
    values: readonly (number | null)[],
  ): Promise<void> {
    known.lastAtMs = atMs
    await this.#lookElsewhere(known, atMs)
    const moment = new Map<number, number>()
    seriesIds.forEach((id, slot) => {
      const value = values[slot]
      if (value == null) return
      moment.set(id, value)
      known.last.set(id, { atMs, value })
    })
    const changes: Change[] = known.outdated.splice(0).map(({ id }) => ({ kind: 'withdraw', id, atMs }))
    for (const [seriesId, value] of moment)
      for (const instance of known.instances.get(seriesId) ?? []) {
        if (isSwitchedOff(known, instance.subject)) {
          changes.push(...this.#passOver(known, instance, atMs))
          continue
        }
        const other = instance.otherId === null ? undefined : known.last.get(instance.otherId)?.value
        instance.judge.take(instance.standing, atMs, value, other)
        const change = this.#changeOf(known, instance, atMs, value)
        if (change !== null) changes.push(change)
      }
    for (const instance of known.silent) {
      const change = this.#silenceOf(known, instance, atMs, moment.has(instance.subject.id))
      if (change !== null) changes.push(change)
    }
    await writeChanges(this.db, this.alerts, known, changes)
  }

  /** What only runs while its gear is on is not judged while that is off, and begins anew when it is on again. */
  #passOver(known: SourceRules, instance: RuleInstance, atMs: number): Change[] {
    const { subject, judge } = instance
    instance.standing = judge.begin()
    const key = keyOf(judge.rule.key, subject.id)
    const open = known.open.get(key)
    if (open === undefined) return []
    return [{ kind: 'clear', key, open, words: { title: open.title, reason: offReason, atMs } }]
  }

  /** What is to be done when a rule stands otherwise than its alert. */
  #changeOf(known: SourceRules, instance: RuleInstance, atMs: number, value: number): Change | null {
    const { subject, standing } = instance
    const { rule } = instance.judge
    const key = keyOf(rule.key, subject.id)
    const open = known.open.get(key)
    const isOther = open !== undefined && isOtherState(rule, open, standing.severity, value)
    if (standing.severity === (open?.severity ?? null) && !isOther) return null
    const about = alertFactsOf(known, subject, value, atMs)
    const title = alertTitle(about)
    const verdict = verdictOf(standing)
    if (verdict.kind === 'clear') {
      if (open === undefined) return null
      const reason = clearedReason(about, open.openedAtMs, atMs)
      return { kind: 'clear', key, open, words: { title, reason, atMs } }
    }
    const { severity, sinceMs } = verdict
    const line = lineWords(rule, severity)
    const words = { severity, title, reason: alertReason(rule, about, verdict), line, atMs }
    return open === undefined
      ? { kind: 'open', subject, what: { ...words, ruleKey: rule.key, value, sinceMs } }
      : {
          kind: 'change',
          key,
          open,
          words: isOther
            ? { ...words, otherState: value, tellsState: !isNextWordMeasure(subject.measure) }
            : words,
        }
  }

  /** A series that is missing while its source is heard. */
  #silenceOf(
    known: SourceRules,
    { subject, rule }: SilentInstance,
    atMs: number,
    isHeard: boolean,
  ): Change | null {
    const key = keyOf(rule.key, subject.id)
    const open = known.open.get(key)
    const last = known.last.get(subject.id)
    if (last === undefined) {
      known.last.set(subject.id, { atMs, value: NaN })
      return null
    }
    const named = { gearName: subject.gearName, partName: subject.partName }
    if (isHeard) {
      if (open === undefined) return null
      const reason = silentReason(atMs - open.sinceMs, true)
      return { kind: 'clear', key, open, words: { title: silentTitle(named, true), reason, atMs } }
    }
    if (open !== undefined || atMs - last.atMs < rule.afterMs) return null
    return {
      kind: 'open',
      subject,
      what: {
        ruleKey: rule.key,
        severity: rule.severity,
        title: silentTitle(named, false),
        reason: silentReason(atMs - last.atMs, false),
        line: lineWords(rule, rule.severity),
        value: null,
        atMs,
        sinceMs: last.atMs,
      },
    }
  }
}

/** Whether it goes on in another state than it was told with: a UPS on battery that gives nothing any more. */
const isOtherState = (rule: SeriesRule, open: OpenAlert, severity: Severity | null, value: number): boolean =>
  rule.kind === 'state' &&
  severity === open.severity &&
  open.value !== null &&
  open.value !== value &&
  isBeyond(rule, value) === true

function isSwitchedOff(known: SourceRules, { gearId, partKind, measure }: SubjectRow): boolean {
  const powerId = known.power.get(gearId)
  return powerId !== undefined && known.last.get(powerId)?.value === 0 && runsOnlyWhenOn(measure, partKind)
}
