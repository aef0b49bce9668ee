import type { MeasureKey } from '#core/catalogue'
import {
  companionOf,
  isSeriesRule,
  type Judge,
  judgeFor,
  type KeptRule,
  measureOfRule,
  type Persistence,
  resume,
  ruleCovers,
  rulesInForce,
  type SeriesRule,
  type Severity,
  type SilentRule,
  type Standing,
  type AlertFacts,
} from '#core/rules'
import { openAlertsOf } from '#db/alerts'
import type { Db } from '#db/platform'
import { hasBeenIn, type Moment, recentMoments } from '#db/readings'
import { findBeside, type GearScope, listSubjects, type SubjectRow } from '#db/rules'
import { intervalOf, listIntervals } from '#db/sources'

export interface OpenAlert {
  readonly id: number
  readonly severity: Severity
  readonly title: string
  readonly openedAtMs: number
  readonly sinceMs: number
  readonly partId: number | null
  /** The reading that it was last told with. */
  readonly value: number | null
}

/** A rule on one series. */
export interface RuleInstance {
  readonly subject: SubjectRow
  readonly judge: Judge
  /** What the rule was when it was made ready, to know whether it is another. */
  readonly body: string
  /** The series of the rule's second measure. */
  readonly otherId: number | null
  standing: Standing
}

/** A rule on a series that may be missing. */
export interface SilentInstance {
  readonly subject: SubjectRow
  readonly rule: SilentRule
}

/** A series that another source brings, and that is compared with here. */
interface Elsewhere {
  readonly sourceId: number
  /** For how long a reading of it may be compared with. */
  readonly freshMs: number
}

/** What is known of the rules on one source between two of its moments. */
export interface SourceRules {
  readonly subjects: ReadonlyMap<number, SubjectRow>
  /** By series; of a series without rules nothing. */
  readonly instances: Map<number, RuleInstance[]>
  readonly silent: SilentInstance[]
  /** By rule and series. */
  readonly open: Map<string, OpenAlert>
  /** The newest reading of each series. */
  readonly last: Map<number, { atMs: number; value: number }>
  readonly elsewhere: Map<number, Elsewhere>
  /** The series of each gear that tells whether it is on. */
  readonly power: ReadonlyMap<number, number>
  /** Alerts of rules that are not in force here any more. */
  readonly outdated: OpenAlert[]
  lastAtMs: number
}

/** What rules are made ready from; the same for all sources. */
export interface Around {
  readonly rules: readonly KeptRule[]
  readonly scopes: ReadonlyMap<number, GearScope>
}

type ByMeasure = ReadonlyMap<MeasureKey | null, readonly KeptRule[]>

/** So many moments are read back after a start at most. */
const MOST_READ_BACK = 500
/** What is not said otherwise is asked once a minute. */
const USUAL_SECONDS = 60

export const keyOf = (ruleKey: string, seriesId: number): string => `${ruleKey} ${seriesId}`

/** @param before what was known until rules, tags or places changed: what was seen up to now still counts */
export async function makeReady(
  db: Db,
  around: Around,
  { sourceId, atMs, before }: { sourceId: number; atMs: number; before: SourceRules | undefined },
): Promise<SourceRules> {
  const [rows, alerts] = await Promise.all([
    listSubjects(db, { sourceId }, around.scopes),
    openAlertsOf(db, sourceId),
  ])
  const byMeasure = grouped(around.rules)
  const others = await besideElsewhere(db, rows, byMeasure, around.scopes)
  const made: SourceRules = {
    subjects: new Map(rows.map((subject) => [subject.id, subject])),
    instances: new Map(),
    silent: [],
    open: new Map(),
    last: before?.last ?? new Map(),
    elsewhere: new Map(),
    power: new Map(
      rows.flatMap(({ id, gearId, partId, measure }) =>
        measure === 'hw.power.state' && partId === null ? [[gearId, id] as const] : [],
      ),
    ),
    outdated: [],
    lastAtMs: before?.lastAtMs ?? 0,
  }
  const fresh: RuleInstance[] = []
  for (const subject of rows)
    for (const { kept } of rulesInForce(byMeasure.get(subject.measure) ?? [], subject)) {
      const { rule } = kept
      if (rule.kind === 'silent') made.silent.push({ subject, rule })
      if (isSeriesRule(rule)) addInstance(made, { rule, subject, rows, others, before, fresh })
    }
  sortOut(made, alerts)
  await readBack(db, made, { sourceId, atMs, fresh })
  return made
}

function grouped(rules: readonly KeptRule[]): ByMeasure {
  const byMeasure = new Map<MeasureKey | null, KeptRule[]>()
  for (const kept of rules) {
    const measure = measureOfRule(kept.rule)
    byMeasure.set(measure, [...(byMeasure.get(measure) ?? []), kept])
  }
  return byMeasure
}

interface InstanceGiven {
  readonly rule: SeriesRule
  readonly subject: SubjectRow
  readonly rows: readonly SubjectRow[]
  readonly others: readonly (SubjectRow & Elsewhere)[]
  readonly before: SourceRules | undefined
  /** Takes what has seen nothing yet. */
  readonly fresh: RuleInstance[]
}

function addInstance(made: SourceRules, given: InstanceGiven): void {
  const { rule, subject, rows, others, before, fresh } = given
  const companion = companionOf(rule)
  const otherId =
    companion === null
      ? null
      : (findBeside(rows, subject, companion) ?? findBeside(others, subject, companion))
  const other = others.find(({ id }) => id === otherId)
  if (other !== undefined) made.elsewhere.set(other.id, other)
  const body = JSON.stringify([rule, otherId])
  const old = before?.instances.get(subject.id)?.find((instance) => instance.body === body)
  const judge = old?.judge ?? judgeFor(rule)
  const instance = { subject, judge, body, otherId, standing: old?.standing ?? judge.begin() }
  if (old === undefined) fresh.push(instance)
  made.instances.set(subject.id, [...(made.instances.get(subject.id) ?? []), instance])
}

/** Which open alerts still have a rule here. */
function sortOut(made: SourceRules, alerts: Awaited<ReturnType<typeof openAlertsOf>>): void {
  const inForce = new Set([
    ...[...made.instances.values()].flat().map(({ judge, subject }) => keyOf(judge.rule.key, subject.id)),
    ...made.silent.map(({ rule, subject }) => keyOf(rule.key, subject.id)),
  ])
  for (const { id, ruleKey, seriesId, severity, title, partId, openedAt, sinceAt, value } of alerts) {
    if (seriesId === null) continue
    const alert = {
      id,
      severity,
      title,
      partId,
      openedAtMs: openedAt.getTime(),
      sinceMs: sinceAt.getTime(),
      value,
    }
    const key = keyOf(ruleKey, seriesId)
    if (inForce.has(key)) made.open.set(key, alert)
    else made.outdated.push(alert)
  }
}

/** What other sources bring of the same gear, as far as rules here compare with what their own source does not bring. */
async function besideElsewhere(
  db: Db,
  rows: readonly SubjectRow[],
  byMeasure: ByMeasure,
  scopes: ReadonlyMap<number, GearScope>,
): Promise<(SubjectRow & Elsewhere)[]> {
  const lacking = lackingCompanion(rows, byMeasure)
  if (lacking.size === 0) return []
  const own = new Set(rows.map(({ id }) => id))
  const [all, intervals] = await Promise.all([
    listSubjects(db, { gearIds: [...lacking] }, scopes),
    listIntervals(db),
  ])
  return all
    .filter(({ id }) => !own.has(id))
    .map((subject) => ({
      ...subject,
      freshMs: (intervals.get(subject.sourceId) ?? USUAL_SECONDS) * 3000,
    }))
}

/** Gear that a rule compares by a measure which its own source does not bring. */
function lackingCompanion(rows: readonly SubjectRow[], byMeasure: ByMeasure): Set<number> {
  const lacking = new Set<number>()
  for (const [measure, kept] of byMeasure) {
    const comparing = kept.flatMap(({ rule, isOn }) => {
      const companion = isOn && isSeriesRule(rule) ? companionOf(rule) : null
      return companion === null ? [] : [{ rule, companion }]
    })
    if (comparing.length === 0) continue
    for (const subject of rows)
      if (
        subject.measure === measure &&
        comparing.some(
          ({ rule, companion }) => ruleCovers(rule, subject) && findBeside(rows, subject, companion) === null,
        )
      )
        lacking.add(subject.gearId)
  }
  return lacking
}

/** Lets new instances see what is stored already. */
async function readBack(
  db: Db,
  made: SourceRules,
  { sourceId, atMs, fresh }: { sourceId: number; atMs: number; fresh: readonly RuleInstance[] },
): Promise<void> {
  if (fresh.length === 0 && (made.silent.length === 0 || made.last.size > 0)) return
  const intervalMs = (await intervalOf(db, sourceId)) * 1000
  const needed = Math.max(
    2,
    ...fresh.map(({ judge }) => momentsFor(judge.rule, intervalMs)),
    ...made.silent.map(({ rule }) => rule.afterMs / intervalMs + 2),
  )
  const moments = await recentMoments(db, sourceId, atMs - 1, Math.min(MOST_READ_BACK, Math.ceil(needed)))
  for (const instance of fresh) {
    const row = rowOf(instance, moments)
    const open = made.open.get(keyOf(instance.judge.rule.key, instance.subject.id))
    if (open !== undefined) instance.standing = resume(instance.judge, open, row)
    else
      for (const { atMs: at, value, other } of row) instance.judge.take(instance.standing, at, value, other)
    const { rule } = instance.judge
    if (rule.kind === 'state' && rule.after !== null && !instance.standing.hasBeen)
      instance.standing.hasBeen = await hasBeenIn(db, instance.subject.id, rule.after, atMs)
  }
  rememberNewest(made, moments)
}

/** What a rule would have been given, moment by moment. */
function rowOf({ subject, otherId }: RuleInstance, moments: readonly Moment[]) {
  let other = NaN
  return moments.flatMap(({ atMs, values }) => {
    if (otherId !== null) other = values.get(otherId) ?? other
    const value = values.get(subject.id)
    return value === undefined ? [] : [{ atMs, value, other }]
  })
}

function rememberNewest(made: SourceRules, moments: readonly Moment[]): void {
  const [oldest] = moments
  if (oldest !== undefined)
    for (const { subject } of made.silent)
      if (!made.last.has(subject.id)) made.last.set(subject.id, { atMs: oldest.atMs, value: NaN })
  for (const { atMs, values } of moments)
    for (const [seriesId, value] of values)
      if ((made.last.get(seriesId)?.atMs ?? -Infinity) <= atMs) made.last.set(seriesId, { atMs, value })
}

/** How many moments a rule must look back to know what it would know had it always been there. */
function momentsFor(rule: SeriesRule, intervalMs: number): number {
  const ofPersistence = (persistence: Persistence): number =>
    persistence.kind === 'count' ? persistence.n : persistence.ms / intervalMs + 2
  switch (rule.kind) {
    case 'change':
      return rule.holdMs / intervalMs + 2
    case 'rate':
      return ofPersistence(rule.persistence) + rule.withinMs / intervalMs + 2
    default:
      return ofPersistence(rule.persistence)
  }
}

/** The names, and what else was read of the same part, or of the gear itself, in the same moment. */
export function alertFactsOf(
  known: SourceRules,
  subject: SubjectRow,
  value: number,
  atMs: number,
): AlertFacts {
  const companions: Partial<Record<MeasureKey, number>> = {}
  for (const beside of known.subjects.values()) {
    if (beside.gearId !== subject.gearId || beside.partId !== subject.partId) continue
    const last = known.last.get(beside.id)
    if (last?.atMs === atMs) companions[beside.measure] = last.value
  }
  const { gearName, gearKind, partName, partKind, measure } = subject
  return { gearName, gearKind, partName, partKind, measure, value, companions }
}
