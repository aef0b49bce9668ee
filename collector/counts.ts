import {
  type Counted,
  type CountRule,
  countAsLevel,
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
import type { Db } from '#db/connect'
import { type LatestReadings, latestReadings } from '#db/readings'
import { listRules } from '#db/rules'
import { listSubjects, type SubjectRow } from '#db/subjects'
import type { Teller } from './teller.ts'

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
    const posts = (this.#posts ??= await this.#makeReady())
    if (posts.length === 0) return
    if (!(await this.isMine())) return this.refresh()
    const [latest, sources] = await Promise.all([
      latestReadings(this.db),
      this.db.selectFrom('source').select(['id', 'intervalSeconds']).execute(),
    ])
    const freshFor = new Map(sources.map(({ id, intervalSeconds }) => [id, intervalSeconds * 3000]))
    for (const post of posts) {
      const counted = count(post, latest, (sourceId) => nowMs - (freshFor.get(sourceId) ?? 60_000))
      if (counted.known === 0) continue
      post.judge.take(post.standing, nowMs, counted.beyond.length)
      await this.#settle(post, counted, nowMs)
    }
  }

  async #makeReady(): Promise<CountPost[]> {
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
    const posts = rules.map((rule): CountPost => {
      const judge = judgeFor(countAsLevel(rule))
      const alert = open.find(({ ruleKey }) => ruleKey === rule.key) ?? null
      return {
        rule,
        judge,
        standing:
          alert === null
            ? judge.begin()
            : resume(judge, { severity: alert.severity, sinceMs: alert.sinceAt.getTime() }, []),
        members: subjects.filter((subject) => ruleCovers(rule, subject)),
        alert,
      }
    })
    for (const alert of open)
      if (!posts.some((post) => post.alert?.id === alert.id))
        await this.#clear(alert.id, alert.title, 'Its rule is not in force any more.', Date.now())
    return posts
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
