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
import { changeSeverity, clearAlert, openAlert } from '#db/alerts'
import type { Db } from '#db/platform'
import { type LatestReadings, latestReadings, readSpans } from '#db/readings'
import { listRules, listSubjects, type SubjectRow } from '#db/rules'
import type { Teller } from '../notify/notifier.ts'

/** How often the living is looked at. */
export const LOOK_MS = 5000
/** Of a long stretch before the first look so many points are counted at most. */
const MOST_STEPS = 1000

interface CountPost {
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
  #posts: CountPost[] | null = null

  constructor(
    private readonly db: Db,
    private readonly teller: Teller,
    /** Whether it is this process that looks. */
    private readonly isMine: () => Promise<boolean>,
  ) {}

  refresh(): void {
    this.#posts = null
  }

  async look(nowMs: number): Promise<void> {
    if (this.#posts?.length === 0) return
    if (!(await this.isMine())) return this.refresh()
    const sources = await this.db.selectFrom('source').select(['id', 'intervalSeconds']).execute()
    const freshFor = new Map(sources.map(({ id, intervalSeconds }) => [id, intervalSeconds * 3000]))
    const freshMs = (sourceId: number): number => freshFor.get(sourceId) ?? 60_000
    const posts = (this.#posts ??= await this.#makeReady(nowMs, freshMs))
    const latest = await latestReadings(this.db)
    for (const post of posts) {
      const counted = count(post, latest, (sourceId) => nowMs - freshMs(sourceId))
      if (counted.known === 0) continue
      post.judge.take(post.standing, nowMs, counted.beyond.length)
      await this.#settle(post, counted, nowMs)
    }
  }

  async #makeReady(nowMs: number, freshMs: (sourceId: number) => number): Promise<CountPost[]> {
    const rules = (await listRules(this.db)).flatMap(({ rule, isOn }) =>
      rule.kind === 'count' && isOn ? [rule] : [],
    )
    const open = await this.db
      .selectFrom('alert')
      .select(['id', 'ruleKey', 'severity', 'sinceAt', 'title'])
      .where('clearedAt', 'is', null)
      .where('subject', '=', 'count')
      .execute()
    const subjects = rules.length === 0 ? [] : await listSubjects(this.db, {})
    const posts: CountPost[] = []
    for (const rule of rules) {
      const judge = judgeFor(countAsLevel(rule))
      const alert = open.find(({ ruleKey }) => ruleKey === rule.key) ?? null
      const members = subjects.filter((subject) => ruleCovers(rule, subject))
      const before = await this.#before(rule, members, nowMs, freshMs)
      const held = alert === null ? null : { severity: alert.severity, sinceMs: alert.sinceAt.getTime() }
      const standing = held === null ? judge.begin() : resume(judge, held, before)
      if (held === null) for (const { atMs, value } of before) judge.take(standing, atMs, value)
      posts.push({ rule, judge, standing, members, alert })
    }
    for (const alert of open)
      if (!posts.some((post) => post.alert?.id === alert.id))
        await this.#clear(alert.id, alert.title, 'Its rule is not in force any more.', Date.now())
    return posts
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

  async #settle(post: CountPost, counted: Counted, atMs: number): Promise<void> {
    const { severity, sinceMs } = post.standing
    if (severity === (post.alert?.severity ?? null)) return
    const { rule } = post
    const title = countTitle(rule, counted)
    const reason = countReason(rule, counted)
    if (severity === null) {
      await this.#clear(post.alert!.id, title, `Only ${counted.beyond.length} of ${counted.known} now.`, atMs)
      post.alert = null
      return
    }
    const line = lineWords(rule, severity)
    const { alert } = post
    const id = await this.db.transaction().execute(async (trx) => {
      if (alert !== null) {
        await changeSeverity(trx, alert.id, { severity, title, reason, line, at: new Date(atMs) })
        if (severity === 'critical')
          await this.teller.tell(trx, { alertId: alert.id, event: 'worse', title, reason, atMs })
        return alert.id
      }
      const opened = await openAlert(trx, {
        ruleKey: rule.key,
        seriesId: null,
        sourceId: null,
        gearId: null,
        partId: null,
        measure: rule.measure,
        subject: 'count',
        severity,
        title,
        reason,
        line,
        value: counted.beyond.length,
        sinceAt: new Date(sinceMs),
        openedAt: new Date(atMs),
      })
      if (opened !== null)
        await this.teller.tell(trx, { alertId: opened, event: 'opened', title, reason, atMs })
      return opened
    })
    if (id === null) this.refresh()
    else post.alert = { id, severity }
  }

  #clear(id: number, title: string, reason: string, atMs: number): Promise<void> {
    return this.db.transaction().execute(async (trx) => {
      if (await clearAlert(trx, id, new Date(atMs), reason))
        await this.teller.tellCleared(trx, { alertId: id, title, reason, atMs })
    })
  }
}

function count(
  { rule, members }: CountPost,
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
