import {
  type Counted,
  type CountRule,
  countAsLevel,
  countedCurve,
  countReason,
  countTitle,
  isMemberBeyond,
  type Judge,
  judgeFor,
  lineWords,
  resume,
  ruleCovers,
  type Severity,
  type Standing,
} from '#core/rules'
import { openCountAlerts } from '#db/alerts'
import type { Db } from '#db/platform'
import { type LatestReadings, latestReadings, readSpans } from '#db/readings'
import { listRules, listSubjects, type SubjectRow } from '#db/rules'
import { listIntervals } from '#db/sources'
import type { AlertWriter } from './alertWriter.ts'

/** How often the living is looked at. */
export const LOOK_MS = 5000
/** Of a long stretch before the first look so many points are counted at most. */
const MOST_STEPS = 1000

interface CountInstance {
  readonly rule: CountRule
  readonly judge: Judge
  readonly standing: Standing
  readonly members: readonly SubjectRow[]
  alert: { readonly id: number; readonly severity: Severity } | null
}

/**
 * Judges rules that count: how many of all in a scope are beyond a line now. Members may be read by several collectors,
 * so one of them looks at the newest readings of all.
 */
export class Counts {
  #instances: CountInstance[] | null = null

  constructor(
    private readonly db: Db,
    private readonly alerts: AlertWriter,
    /** Whether it is this process that looks. */
    private readonly isMine: () => Promise<boolean>,
  ) {}

  refresh(): void {
    this.#instances = null
  }

  async look(nowMs: number): Promise<void> {
    if (this.#instances?.length === 0) return
    if (!(await this.isMine())) return this.refresh()
    const intervals = await listIntervals(this.db)
    const freshMs = (sourceId: number): number => (intervals.get(sourceId) ?? 20) * 3000
    const instances = (this.#instances ??= await this.#makeReady(nowMs, freshMs))
    const latest = await latestReadings(this.db)
    for (const instance of instances) {
      const counted = count(instance, latest, (sourceId) => nowMs - freshMs(sourceId))
      if (counted.known === 0) continue
      instance.judge.take(instance.standing, nowMs, counted.beyond.length)
      await this.#settle(instance, counted, nowMs)
    }
  }

  async #makeReady(nowMs: number, freshMs: (sourceId: number) => number): Promise<CountInstance[]> {
    const rules = (await listRules(this.db)).flatMap(({ rule, isOn }) =>
      rule.kind === 'count' && isOn ? [rule] : [],
    )
    const open = await openCountAlerts(this.db)
    const subjects = rules.length === 0 ? [] : await listSubjects(this.db, {})
    const instances: CountInstance[] = []
    for (const rule of rules) {
      const judge = judgeFor(countAsLevel(rule))
      const alert = open.find(({ ruleKey }) => ruleKey === rule.key) ?? null
      const members = subjects.filter((subject) => ruleCovers(rule, subject))
      const before = await this.#before(rule, members, nowMs, freshMs)
      const held = alert === null ? null : { severity: alert.severity, sinceMs: alert.sinceAt.getTime() }
      const standing = held === null ? judge.begin() : resume(judge, held, before)
      if (held === null) for (const { atMs, value } of before) judge.take(standing, atMs, value)
      instances.push({ rule, judge, standing, members, alert })
    }
    const held = new Set(instances.map(({ alert }) => alert?.id))
    for (const alert of open) if (!held.has(alert.id)) await this.#withdraw(alert)
    return instances
  }

  #withdraw({ id, title }: { readonly id: number; readonly title: string }): Promise<unknown> {
    const reason = 'Its rule is not in force any more.'
    return this.alerts.clear(id, { title, reason, atMs: Date.now() })
  }

  /** What would have been counted up to now, as far as the rule looks back: another process may have counted until now. */
  async #before(
    rule: CountRule,
    members: readonly SubjectRow[],
    nowMs: number,
    freshMs: (sourceId: number) => number,
  ): Promise<{ atMs: number; value: number }[]> {
    const { persistence } = rule
    const spanMs =
      persistence.kind === 'count' ? persistence.n * LOOK_MS : persistence.ms + persistence.bridgeMs + LOOK_MS
    const stepMs = Math.max(LOOK_MS, spanMs / MOST_STEPS)
    const [fromMs, toMs] = [nowMs - stepMs - spanMs, nowMs - stepMs]
    const longestMs = Math.max(0, ...members.map(({ sourceId }) => freshMs(sourceId)))
    const ids = members.map(({ id }) => id)
    const curves = await readSpans(this.db, ids, fromMs - longestMs, toMs)
    const { times, values } = countedCurve(
      rule,
      members.map(({ id, sourceId }) => ({ curve: curves.get(id)!, freshMs: freshMs(sourceId) })),
      { fromMs, toMs, stepMs },
    )
    return Array.from(times, (atMs, index) => ({ atMs, value: values[index]! }))
  }

  async #settle(instance: CountInstance, counted: Counted, atMs: number): Promise<void> {
    const { severity, sinceMs } = instance.standing
    if (severity === (instance.alert?.severity ?? null)) return
    const { rule } = instance
    const title = countTitle(rule, counted)
    const reason = countReason(rule, counted)
    if (severity === null) {
      const cleared = `Only ${counted.beyond.length} of ${counted.known} now.`
      await this.alerts.clear(instance.alert!.id, { title, reason: cleared, atMs })
      instance.alert = null
      return
    }
    const words = { severity, title, reason, line: lineWords(rule, severity), atMs }
    if (instance.alert !== null) {
      await this.alerts.change(instance.alert.id, words)
      instance.alert = { id: instance.alert.id, severity }
      return
    }
    const { key: ruleKey, measure } = rule
    const value = counted.beyond.length
    const id = await this.alerts.open({ ...words, ruleKey, measure, subject: 'count', value, sinceMs })
    if (id === null) this.refresh()
    else instance.alert = { id, severity }
  }
}

function count(
  { rule, members }: CountInstance,
  latest: LatestReadings,
  freshSinceMs: (sourceId: number) => number,
): Counted {
  const beyond: string[] = []
  let known = 0
  for (const { id, sourceId, gearName, partName } of members) {
    const reading = latest.get(id)
    if (reading?.value == null || reading.atMs < freshSinceMs(sourceId)) continue
    known += 1
    if (isMemberBeyond(rule, reading.value))
      beyond.push(partName === null ? gearName : `${partName} in ${gearName}`)
  }
  return { beyond, known, unknown: members.length - known }
}
