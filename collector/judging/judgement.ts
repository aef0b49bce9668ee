import type { MeasureKey } from '#core/catalogue'
import {
  alertReason,
  alertTitle,
  clearedReason,
  companionOf,
  isSeriesRule,
  type Judge,
  judgeFor,
  type KeptRule,
  lineWords,
  measureOfRule,
  type Persistence,
  resume,
  ruleCovers,
  rulesInForce,
  type SeriesRule,
  type Severity,
  type SilentRule,
  silentReason,
  silentTitle,
  type Standing,
  type Told,
  verdictOf,
} from '#core/rules'
import { changeSeverity, clearAlert, openAlert, openAlertsOf } from '#db/alerts'
import type { Db } from '#db/platform'
import { aggregate, latestReadings, recentMoments } from '#db/readings'
import {
  listRules,
  findBeside,
  type GearScope,
  listGearScopes,
  listSubjects,
  type SubjectRow,
} from '#db/rules'
import type { StoredMoment } from '../intake/delivery.ts'
import type { Teller } from '../notify/notifier.ts'

interface OpenAlert {
  readonly id: number
  readonly severity: Severity
  readonly openedAtMs: number
  readonly sinceMs: number
  readonly partId: number | null
}

/** A rule on one series. */
interface Post {
  readonly subject: SubjectRow
  readonly judge: Judge
  /** What the rule was when it was made ready, to know whether it is another. */
  readonly body: string
  /** The series of the rule's second measure. */
  readonly otherId: number | null
  standing: Standing
}

interface SilentPost {
  readonly subject: SubjectRow
  readonly rule: SilentRule
}

/** What is known of one source between two of its moments. */
interface Elsewhere {
  readonly sourceId: number
  /** For how long a reading of it may be compared with. */
  readonly freshMs: number
}

interface Bench {
  readonly subjects: ReadonlyMap<number, SubjectRow>
  /** By series; `null` where none is in force. */
  readonly posts: ReadonlyMap<number, readonly Post[]>
  readonly silent: readonly SilentPost[]
  /** By rule and series. */
  readonly open: Map<string, OpenAlert>
  /** The newest reading of each series. */
  readonly last: Map<number, { atMs: number; value: number }>
  /** Series that another source of the same gear brings, and that are compared with here. */
  readonly elsewhere: ReadonlyMap<number, Elsewhere>
  /** Alerts of rules that are not in force here any more. */
  readonly outdated: { readonly alert: OpenAlert; readonly title: string }[]
  lastAtMs: number
}

/** So many moments are read back after a start at most. */
const MOST_READ_BACK = 500

const keyOf = (ruleKey: string, seriesId: number): string => `${ruleKey} ${seriesId}`

/**
 * Judges the series of a source after each of its moments, and opens, changes and clears their alerts.
 * What it remembers can be read back from the database at any time, so a crash between storing and judging is mended
 * by the next moment. A moment older than the last one judged (a late push) is stored and not judged.
 */
export class Judgement {
  readonly #benches = new Map<number, Bench>()
  /** Benches that are right but for the rules, tags and places they were made from. */
  readonly #stale = new Map<number, Bench>()
  #around: Promise<{ rules: readonly KeptRule[]; scopes: ReadonlyMap<number, GearScope> }> | null = null

  constructor(
    private readonly db: Db,
    private readonly teller: Teller,
  ) {}

  /** What was judged in between is not known any more, or the series are others. */
  forget(sourceId?: number): void {
    this.#around = null
    for (const benches of [this.#benches, this.#stale])
      if (sourceId === undefined) benches.clear()
      else benches.delete(sourceId)
  }

  /** Rules, tags or places have changed: what was seen of each series up to now still counts. */
  refresh(): void {
    this.#around = null
    for (const [sourceId, bench] of this.#benches) this.#stale.set(sourceId, bench)
    this.#benches.clear()
  }

  async judgeMoment({ taken, seriesIds, values }: StoredMoment): Promise<void> {
    try {
      const bench = await this.#benchFor(taken.sourceId, taken.atMs, seriesIds)
      if (taken.atMs < bench.lastAtMs) return
      await this.#judgeAll(bench, taken.atMs, seriesIds, values)
    } catch (error) {
      this.forget(taken.sourceId)
      throw error
    }
  }

  async #benchFor(sourceId: number, atMs: number, seriesIds: readonly number[]): Promise<Bench> {
    const kept = this.#benches.get(sourceId)
    if (kept !== undefined && seriesIds.every((id) => kept.subjects.has(id))) return kept
    if (kept !== undefined) {
      // New gear may have tags and places of its own.
      this.#around = null
      this.#stale.set(sourceId, kept)
    }
    const before = this.#stale.get(sourceId)
    const bench = await this.#makeBench(sourceId, atMs, before)
    this.#stale.delete(sourceId)
    this.#benches.set(sourceId, bench)
    return bench
  }

  #knownAround() {
    const known = (this.#around ??= Promise.all([listRules(this.db), listGearScopes(this.db)]).then(
      ([rules, scopes]) => ({ rules, scopes }),
    ))
    known.catch(() => {
      if (this.#around === known) this.#around = null
    })
    return known
  }

  async #makeBench(sourceId: number, atMs: number, before: Bench | undefined): Promise<Bench> {
    const { rules, scopes } = await this.#knownAround()
    const [rows, open] = await Promise.all([
      listSubjects(this.db, { sourceId }, scopes),
      openAlertsOf(this.db, sourceId),
    ])
    const subjects = new Map(rows.map((subject) => [subject.id, subject]))
    const byMeasure = new Map<MeasureKey | null, KeptRule[]>()
    for (const kept of rules) {
      const measure = measureOfRule(kept.rule)
      byMeasure.set(measure, [...(byMeasure.get(measure) ?? []), kept])
    }
    const openByKey = new Map(
      open.flatMap(({ ruleKey, seriesId, openedAt, sinceAt, ...alert }) =>
        seriesId === null
          ? []
          : [
              [
                keyOf(ruleKey, seriesId),
                { ...alert, openedAtMs: openedAt.getTime(), sinceMs: sinceAt.getTime() },
              ] as const,
            ],
      ),
    )
    const elsewhere = new Map<number, Elsewhere>()
    const others = await this.#besideElsewhere(rows, byMeasure, scopes)
    const bench: Bench = {
      subjects,
      elsewhere,
      posts: new Map(),
      silent: [],
      open: openByKey,
      last: before?.last ?? new Map(),
      outdated: [],
      lastAtMs: before?.lastAtMs ?? 0,
    }
    const posts = bench.posts as Map<number, Post[]>
    const fresh: Post[] = []
    const inForce = new Set<string>()
    for (const subject of rows) {
      for (const { kept } of rulesInForce(byMeasure.get(subject.measure) ?? [], subject)) {
        const { rule } = kept
        if (rule.kind === 'silent') {
          ;(bench.silent as SilentPost[]).push({ subject, rule })
          inForce.add(keyOf(rule.key, subject.id))
        }
        if (!isSeriesRule(rule)) continue
        const companion = companionOf(rule)
        const otherId =
          companion === null
            ? null
            : (findBeside(rows, subject, companion) ?? findBeside(others, subject, companion))
        const other = others.find(({ id }) => id === otherId)
        if (other !== undefined) elsewhere.set(other.id, other)
        const body = JSON.stringify([rule, otherId])
        const old = before?.posts.get(subject.id)?.find((post) => post.body === body)
        const judge = old?.judge ?? judgeFor(rule)
        const post: Post = { subject, judge, body, otherId, standing: old?.standing ?? judge.begin() }
        if (old === undefined) fresh.push(post)
        posts.set(subject.id, [...(posts.get(subject.id) ?? []), post])
        inForce.add(keyOf(rule.key, subject.id))
      }
    }
    for (const [key, alert] of openByKey)
      if (!inForce.has(key)) {
        const row = open.find((each) => each.id === alert.id)
        bench.outdated.push({ alert, title: row?.title ?? '' })
        openByKey.delete(key)
      }
    await this.#readBack(bench, sourceId, atMs, fresh)
    return bench
  }

  /** What other sources bring of the same gear, as far as rules here compare with what their own source does not bring. */
  async #besideElsewhere(
    rows: readonly SubjectRow[],
    byMeasure: ReadonlyMap<MeasureKey | null, readonly KeptRule[]>,
    scopes: ReadonlyMap<number, GearScope>,
  ): Promise<(SubjectRow & Elsewhere)[]> {
    const lacking = new Set<number>()
    for (const [measure, kept] of byMeasure) {
      const comparing = kept.flatMap(({ rule, isOn }) => {
        const companion = isOn && isSeriesRule(rule) ? companionOf(rule) : null
        return companion === null ? [] : [{ rule, companion }]
      })
      if (comparing.length === 0) continue
      for (const subject of rows)
        if (subject.measure === measure)
          for (const { rule, companion } of comparing)
            if (ruleCovers(rule, subject) && findBeside(rows, subject, companion) === null)
              lacking.add(subject.gearId)
    }
    if (lacking.size === 0) return []
    const own = new Set(rows.map(({ id }) => id))
    const [all, sources] = await Promise.all([
      listSubjects(this.db, { gearIds: [...lacking] }, scopes),
      this.db.selectFrom('source').select(['id', 'intervalSeconds']).execute(),
    ])
    const intervals = new Map(sources.map(({ id, intervalSeconds }) => [id, intervalSeconds]))
    return all
      .filter(({ id }) => !own.has(id))
      .map((subject) => ({ ...subject, freshMs: (intervals.get(subject.sourceId) ?? 60) * 3000 }))
  }

  /** Brings the newest readings of what other sources bring; what is older than three of its intervals is not known. */
  async #lookElsewhere(bench: Bench, atMs: number): Promise<void> {
    if (bench.elsewhere.size === 0) return
    const sourceIds = [...new Set([...bench.elsewhere.values()].map(({ sourceId }) => sourceId))]
    const latest = await latestReadings(this.db, sourceIds)
    for (const [id, { freshMs }] of bench.elsewhere) {
      const reading = latest.get(id)
      if (reading?.value != null && Math.abs(atMs - reading.atMs) <= freshMs)
        bench.last.set(id, { atMs: reading.atMs, value: reading.value })
      else bench.last.delete(id)
    }
  }

  /** Lets new posts see what is stored already. */
  async #readBack(bench: Bench, sourceId: number, atMs: number, fresh: readonly Post[]): Promise<void> {
    if (fresh.length === 0 && (bench.silent.length === 0 || bench.last.size > 0)) return
    const { intervalSeconds } = await this.db
      .selectFrom('source')
      .select('intervalSeconds')
      .where('id', '=', sourceId)
      .executeTakeFirstOrThrow()
    const needed = Math.max(
      2,
      ...fresh.map(({ judge }) => momentsFor(judge.rule, intervalSeconds * 1000)),
      ...bench.silent.map(({ rule }) => rule.afterMs / (intervalSeconds * 1000) + 2),
    )
    const count = Math.min(MOST_READ_BACK, Math.ceil(needed))
    const moments = await recentMoments(this.db, sourceId, atMs - 1, count)
    const rowOf = (post: Post) => {
      let other = NaN
      return moments.flatMap(({ atMs: at, values }) => {
        if (post.otherId !== null) other = values.get(post.otherId) ?? other
        const value = values.get(post.subject.id)
        return value === undefined ? [] : [{ atMs: at, value, other }]
      })
    }
    for (const post of fresh) {
      const open = bench.open.get(keyOf(post.judge.rule.key, post.subject.id))
      if (open !== undefined) post.standing = resume(post.judge, open, rowOf(post))
      else
        for (const { atMs: at, value, other } of rowOf(post)) post.judge.take(post.standing, at, value, other)
    }
    for (const { judge, standing, subject } of fresh) {
      const { rule } = judge
      if (rule.kind === 'state' && rule.after !== null && !standing.hasBeen)
        standing.hasBeen = await hasBeen(this.db, subject.id, rule.after, atMs)
    }
    const [oldest] = moments
    if (oldest !== undefined)
      for (const { subject } of bench.silent)
        if (!bench.last.has(subject.id)) bench.last.set(subject.id, { atMs: oldest.atMs, value: NaN })
    for (const moment of moments)
      for (const [seriesId, value] of moment.values)
        if ((bench.last.get(seriesId)?.atMs ?? -Infinity) <= moment.atMs)
          bench.last.set(seriesId, { atMs: moment.atMs, value })
  }

  async #judgeAll(
    bench: Bench,
    atMs: number,
    seriesIds: readonly number[],
    values: readonly (number | null)[],
  ): Promise<void> {
    bench.lastAtMs = atMs
    await this.#lookElsewhere(bench, atMs)
    const moment = new Map<number, number>()
    seriesIds.forEach((id, slot) => {
      const value = values[slot]
      if (value == null) return
      moment.set(id, value)
      bench.last.set(id, { atMs, value })
    })
    const changes: (() => Promise<void>)[] = bench.outdated
      .splice(0)
      .map((each) => () => this.#clearOutdated(each, atMs))
    for (const [seriesId, value] of moment)
      for (const post of bench.posts.get(seriesId) ?? []) {
        const other = post.otherId === null ? undefined : bench.last.get(post.otherId)?.value
        post.judge.take(post.standing, atMs, value, other)
        const change = this.#changeOf(bench, post, atMs, value)
        if (change !== null) changes.push(change)
      }
    for (const post of bench.silent) {
      const change = this.#silenceOf(bench, post, atMs, moment.has(post.subject.id))
      if (change !== null) changes.push(change)
    }
    for (const change of changes) await change()
  }

  /** What is to be done when a post stands otherwise than its alert. */
  #changeOf(bench: Bench, post: Post, atMs: number, value: number): (() => Promise<void>) | null {
    const { rule } = post.judge
    const key = keyOf(rule.key, post.subject.id)
    const open = bench.open.get(key)
    const { severity } = post.standing
    if (severity === (open?.severity ?? null)) return null
    const told = toldOf(bench, post.subject, value, atMs)
    const verdict = verdictOf(post.standing)
    if (verdict.kind === 'clear')
      return open === undefined
        ? null
        : () =>
            this.#clear(bench, key, open, atMs, alertTitle(told), clearedReason(told, open.openedAtMs, atMs))
    const title = alertTitle(told)
    const reason = alertReason(rule, told, verdict)
    const line = lineWords(rule, verdict.severity)
    if (open !== undefined)
      return () => this.#change(bench, key, open, { severity: verdict.severity, title, reason, line, atMs })
    return () =>
      this.#open(bench, rule.key, post.subject, {
        severity: verdict.severity,
        title,
        reason,
        line,
        value,
        atMs,
        sinceMs: verdict.sinceMs,
      })
  }

  /** A series that is missing while its source is heard. */
  #silenceOf(
    bench: Bench,
    { subject, rule }: SilentPost,
    atMs: number,
    isHeard: boolean,
  ): (() => Promise<void>) | null {
    const key = keyOf(rule.key, subject.id)
    const open = bench.open.get(key)
    const last = bench.last.get(subject.id)
    if (last === undefined) {
      bench.last.set(subject.id, { atMs, value: NaN })
      return null
    }
    const named = { gearName: subject.gearName, partName: subject.partName }
    if (isHeard)
      return open === undefined
        ? null
        : () =>
            this.#clear(
              bench,
              key,
              open,
              atMs,
              silentTitle(named, true),
              silentReason(atMs - open.sinceMs, true),
            )
    if (open !== undefined || atMs - last.atMs < rule.afterMs) return null
    return () =>
      this.#open(bench, rule.key, subject, {
        severity: rule.severity,
        title: silentTitle(named, false),
        reason: silentReason(atMs - last.atMs, false),
        line: lineWords(rule, rule.severity),
        value: null,
        atMs,
        sinceMs: last.atMs,
      })
  }

  async #open(
    bench: Bench,
    ruleKey: string,
    subject: SubjectRow,
    what: {
      readonly severity: Severity
      readonly title: string
      readonly reason: string
      readonly line: string
      readonly value: number | null
      readonly atMs: number
      readonly sinceMs: number
    },
  ): Promise<void> {
    const { severity, title, reason, line, value, atMs, sinceMs } = what
    // One trouble is one message: a part that somebody was just told about does not speak twice.
    const isKnown = [...bench.open.values()].some(
      (other) =>
        other.partId !== null &&
        other.partId === subject.partId &&
        !(other.severity === 'warning' && severity === 'critical'),
    )
    const id = await this.db.transaction().execute(async (trx) => {
      const opened = await openAlert(trx, {
        ruleKey,
        seriesId: subject.id,
        sourceId: null,
        gearId: subject.gearId,
        partId: subject.partId,
        measure: subject.measure,
        subject: `series ${subject.id}`,
        severity,
        title,
        reason,
        line,
        value,
        sinceAt: new Date(sinceMs),
        openedAt: new Date(atMs),
      })
      if (opened !== null && !isKnown)
        await this.teller.tell(trx, { alertId: opened, event: 'opened', title, reason, atMs })
      return opened
    })
    if (id === null) throw new Error(`an alert of ${ruleKey} is open that was not known here`)
    bench.open.set(keyOf(ruleKey, subject.id), {
      id,
      severity,
      openedAtMs: atMs,
      sinceMs,
      partId: subject.partId,
    })
  }

  async #change(
    bench: Bench,
    key: string,
    open: OpenAlert,
    what: {
      readonly severity: Severity
      readonly title: string
      readonly reason: string
      readonly line: string
      readonly atMs: number
    },
  ): Promise<void> {
    const { severity, title, reason, line, atMs } = what
    await this.db.transaction().execute(async (trx) => {
      await changeSeverity(trx, open.id, { severity, title, reason, line, at: new Date(atMs) })
      if (severity === 'critical')
        await this.teller.tell(trx, { alertId: open.id, event: 'worse', title, reason, atMs })
    })
    bench.open.set(key, { ...open, severity })
  }

  async #clear(
    bench: Bench,
    key: string,
    { id }: OpenAlert,
    atMs: number,
    title: string,
    reason: string,
  ): Promise<void> {
    await this.db.transaction().execute(async (trx) => {
      if (await clearAlert(trx, id, new Date(atMs), reason))
        await this.teller.tellCleared(trx, { alertId: id, title, reason, atMs })
    })
    bench.open.delete(key)
  }

  /** The rule is gone, off or overridden here: what it raised goes with it, and nobody needs to be told. */
  async #clearOutdated({ alert }: Bench['outdated'][number], atMs: number): Promise<void> {
    await this.db
      .transaction()
      .execute((trx) => clearAlert(trx, alert.id, new Date(atMs), 'Its rule is not in force here any more.'))
  }
}

const HOUR_MS = 3_600_000
/** A port that was used within this time, and is not any more, has lost its link. */
const REMEMBERED_MS = 60 * 24 * HOUR_MS

/** Whether a series was in a state at any time that is remembered, by the summaries of its hours. */
async function hasBeen(db: Db, seriesId: number, state: number, atMs: number): Promise<boolean> {
  const toMs = Math.ceil(atMs / HOUR_MS) * HOUR_MS
  const { buckets } = await aggregate(db, seriesId, {
    fromMs: toMs - REMEMBERED_MS,
    toMs,
    bucketMs: REMEMBERED_MS,
  })
  return buckets.some(({ count, min, max }) => count > 0 && min <= state && state <= max)
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
function toldOf(bench: Bench, subject: SubjectRow, value: number, atMs: number): Told {
  const companions: Partial<Record<MeasureKey, number>> = {}
  for (const beside of bench.subjects.values()) {
    if (beside.gearId !== subject.gearId || beside.partId !== subject.partId) continue
    const last = bench.last.get(beside.id)
    if (last?.atMs === atMs) companions[beside.measure] = last.value
  }
  const { gearName, gearKind, partName, measure } = subject
  return { gearName, gearKind, partName, measure, value, companions }
}
