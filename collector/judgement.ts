import { isMeasureKey, type MeasureKey } from '#core/measures'
import {
  alertReason,
  alertTitle,
  clearedReason,
  judge,
  type LevelRule,
  lineInForce,
  type Rule,
  type Sample,
  type Severity,
  type StateRule,
  type Told,
} from '#core/rules'
import { changeSeverity, clearAlert, openAlert, openAlertsOf } from '#db/alerts'
import type { Db } from '#db/connect'
import { listSubjects, type SubjectRow } from '#db/gear'
import { recentMoments } from '#db/readings'
import { listRules } from '#db/rules'
import type { StoredMoment } from './delivery.ts'
import type { Teller } from './teller.ts'

/** What is known of one source between two of its moments. Thrown away whenever anything about it changes. */
interface Bench {
  readonly subjects: ReadonlyMap<
    number,
    { readonly subject: SubjectRow; readonly rule: LevelRule | StateRule | null }
  >
  readonly windows: Map<number, Sample[]>
  readonly open: Map<string, { id: number; severity: Severity; openedAtMs: number; partId: number | null }>
  lastAtMs: number
}

const LONGEST_WINDOW = 20

/**
 * Judges the series of a source after each of its moments, and opens, changes and clears their alerts.
 * What it remembers can be read back from the database at any time, so a crash between storing and judging is mended
 * by the next moment. A moment older than the last one judged (a late push) is stored and not judged.
 */
export class Judgement {
  readonly #benches = new Map<number, Bench>()

  constructor(
    private readonly db: Db,
    private readonly teller: Teller,
  ) {}

  forget(sourceId?: number): void {
    if (sourceId === undefined) this.#benches.clear()
    else this.#benches.delete(sourceId)
  }

  async judgeMoment({ taken, seriesIds, values }: StoredMoment): Promise<void> {
    try {
      const bench = await this.#benchFor(taken.sourceId, taken.atMs, seriesIds)
      if (taken.atMs < bench.lastAtMs) return
      await this.#judgeAll(bench, taken.atMs, seriesIds, values)
    } catch (error) {
      this.#benches.delete(taken.sourceId)
      throw error
    }
  }

  async #benchFor(sourceId: number, atMs: number, seriesIds: readonly number[]): Promise<Bench> {
    const kept = this.#benches.get(sourceId)
    if (kept !== undefined && seriesIds.every((id) => kept.subjects.has(id))) return kept
    const [rules, subjects, moments, open] = await Promise.all([
      listRules(this.db),
      listSubjects(this.db, sourceId),
      recentMoments(this.db, sourceId, atMs - 1, LONGEST_WINDOW),
      openAlertsOf(this.db, sourceId),
    ])
    const bench: Bench = {
      subjects: new Map(subjects.map((subject) => [subject.id, { subject, rule: ruleOf(rules, subject) }])),
      windows: new Map(),
      open: new Map(
        open.flatMap(({ id, ruleKey, seriesId, severity, openedAt, partId }) =>
          seriesId === null
            ? []
            : [[`${ruleKey} ${seriesId}`, { id, severity, openedAtMs: openedAt.getTime(), partId }]],
        ),
      ),
      lastAtMs: 0,
    }
    for (const moment of moments) {
      for (const [seriesId, value] of moment.values) remember(bench, seriesId, { atMs: moment.atMs, value })
    }
    this.#benches.set(sourceId, bench)
    return bench
  }

  async #judgeAll(
    bench: Bench,
    atMs: number,
    seriesIds: readonly number[],
    values: readonly (number | null)[],
  ): Promise<void> {
    bench.lastAtMs = atMs
    const moment = new Map(
      seriesIds.flatMap((id, slot) => (values[slot] == null ? [] : [[id, values[slot]] as const])),
    )
    const changes: (() => Promise<void>)[] = []
    for (const [seriesId, value] of moment) {
      remember(bench, seriesId, { atMs, value })
      const entry = bench.subjects.get(seriesId)
      if (entry?.rule == null) continue
      const told = toldOf(bench, entry.subject, value, moment)
      if (told !== null)
        changes.push(...this.#judgeSeries(bench, { seriesId, atMs, told, ...entry, rule: entry.rule }))
    }
    for (const change of changes) await change()
  }

  #judgeSeries(
    bench: Bench,
    at: { seriesId: number; atMs: number; told: Told; subject: SubjectRow; rule: LevelRule | StateRule },
  ): (() => Promise<void>)[] {
    const { seriesId, atMs, told, subject, rule } = at
    const key = `${rule.key} ${seriesId}`
    const open = bench.open.get(key)
    const verdict = judge(rule, bench.windows.get(seriesId) ?? [])
    if (verdict.kind === 'clear') {
      if (open === undefined) return []
      return [() => this.#clear(bench, key, { ...open, atMs, told })]
    }
    if (open?.severity === verdict.severity) return []
    const title = alertTitle(told)
    const reason = alertReason(rule, told, verdict)
    const { severity } = verdict
    if (open !== undefined) {
      return [
        async () => {
          await this.db.transaction().execute(async (trx) => {
            await changeSeverity(trx, open.id, { severity, title, reason, at: new Date(atMs) })
            if (severity === 'critical')
              await this.teller.tell(trx, { alertId: open.id, event: 'worse', title, reason, atMs })
          })
          bench.open.set(key, { ...open, severity })
        },
      ]
    }
    return [
      async () => {
        // One trouble is one message: a part that somebody was just told about does not speak twice.
        const isKnown = [...bench.open.values()].some(
          (other) =>
            other.partId !== null &&
            other.partId === subject.partId &&
            !(other.severity === 'warning' && severity === 'critical'),
        )
        const id = await this.db.transaction().execute(async (trx) => {
          const opened = await openAlert(trx, {
            ruleKey: rule.key,
            seriesId,
            sourceId: null,
            gearId: subject.gearId,
            partId: subject.partId,
            measure: told.measure,
            severity,
            title,
            reason,
            sinceAt: new Date(verdict.sinceMs),
            openedAt: new Date(atMs),
          })
          if (opened !== null && !isKnown) {
            await this.teller.tell(trx, { alertId: opened, event: 'opened', title, reason, atMs })
          }
          return opened
        })
        if (id === null) throw new Error(`an alert of ${rule.key} is open that was not known here`)
        bench.open.set(key, { id, severity, openedAtMs: atMs, partId: subject.partId })
      },
    ]
  }

  async #clear(
    bench: Bench,
    key: string,
    { id, openedAtMs, atMs, told }: { id: number; openedAtMs: number; atMs: number; told: Told },
  ): Promise<void> {
    const reason = clearedReason(told, openedAtMs, atMs)
    await this.db.transaction().execute(async (trx) => {
      if (await clearAlert(trx, id, new Date(atMs), reason)) {
        await this.teller.tellCleared(trx, { alertId: id, title: alertTitle(told), reason, atMs })
      }
    })
    bench.open.delete(key)
  }
}

function remember(bench: Bench, seriesId: number, sample: Sample): void {
  const window = bench.windows.get(seriesId) ?? []
  if (window.length === 0) bench.windows.set(seriesId, window)
  if (sample.atMs <= (window.at(-1)?.atMs ?? -Infinity)) return
  window.push(sample)
  if (window.length > LONGEST_WINDOW) window.shift()
}

function ruleOf(rules: readonly Rule[], subject: SubjectRow): LevelRule | StateRule | null {
  if (!isMeasureKey(subject.measure)) return null
  return lineInForce(rules, {
    measure: subject.measure,
    gearKind: subject.gearKind,
    partKind: subject.partKind,
  })
}

/** The names, and what else was read of the same part, or of the gear itself, in the same moment. */
function toldOf(
  bench: Bench,
  subject: SubjectRow,
  value: number,
  moment: ReadonlyMap<number, number>,
): Told | null {
  if (!isMeasureKey(subject.measure)) return null
  const companions: Partial<Record<MeasureKey, number>> = {}
  for (const [seriesId, other] of moment) {
    const beside = bench.subjects.get(seriesId)?.subject
    if (beside?.gearId === subject.gearId && beside.partId === subject.partId)
      companions[beside.measure] = other
  }
  const { gearName, gearKind, partName, measure } = subject
  return { gearName, gearKind, partName, measure, value, companions }
}
