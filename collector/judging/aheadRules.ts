import {
  aheadName,
  hasLevel,
  aheadReason,
  type AheadRule,
  aheadTitle,
  type AheadVerdict,
  judgeAhead,
  type KeptRule,
  lineWords,
  rulesInForce,
  type Severity,
} from '#core/rules'
import { formatDate } from '#core/units'
import { openAheadAlerts } from '#db/alerts'
import { type Listing, listOutlooks } from '#db/forecast'
import { type Db, readSite } from '#db/platform'
import { listRules, listSubjects } from '#db/rules'
import type { AlertWriter } from './alertWriter.ts'

/** How often what is forecast is held against the rules on it. */
export const AHEAD_LOOK_MS = 30_000
const DAY_MS = 86_400_000

type Open = Awaited<ReturnType<typeof openAheadAlerts>>[number]

/** Judges rules on days left: from what is forecast, not from readings, so one collector does it for all. */
export class AheadRules {
  constructor(
    private readonly db: Db,
    private readonly alerts: AlertWriter,
    /** Whether it is this process that looks. */
    private readonly isMine: () => Promise<boolean>,
  ) {}

  async look(nowMs: number): Promise<void> {
    if (!(await this.isMine())) return
    const all = await listRules(this.db)
    const rules = all.filter(({ rule, isOn }) => isOn && rule.kind === 'ahead')
    const open = new Map((await openAheadAlerts(this.db)).map((alert) => [keyOf(alert), alert]))
    if (rules.length === 0 && open.size === 0) return
    const outlooks = await listOutlooks(this.db, {
      before: new Date(nowMs + farthest(rules) * DAY_MS),
      seriesIds: [...open.values()].flatMap(({ seriesId }) => seriesId ?? []),
    })
    const inForce = await this.#inForce(all, rules, outlooks)
    const { timeZone } = await readSite(this.db)
    for (const { outlook, rule, hasLevelRule } of inForce) {
      const key = keyOf({ ruleKey: rule.key, seriesId: outlook.seriesId })
      await this.#settle({ rule, outlook, hasLevelRule, alert: open.get(key), nowMs, timeZone })
      open.delete(key)
    }
    for (const { id, title, seriesId } of open.values()) {
      const isForecast = outlooks.some((each) => each.seriesId === seriesId)
      if (isForecast) await this.alerts.withdraw(id, nowMs)
      else
        await this.alerts.clear(id, {
          title,
          atMs: nowMs,
          reason: judgeAhead({ lines: [] }, null, { nowMs, held: null }).because,
        })
    }
  }

  async #inForce(
    all: readonly KeptRule[],
    rules: readonly KeptRule[],
    outlooks: readonly Listing[],
  ): Promise<Pick<Settling, 'outlook' | 'rule' | 'hasLevelRule'>[]> {
    const gearIds = [...new Set(outlooks.map(({ gearId }) => gearId))]
    const subjects = new Map((await listSubjects(this.db, { gearIds })).map((each) => [each.id, each]))
    return outlooks.flatMap((outlook) => {
      const subject = subjects.get(outlook.seriesId)
      if (subject === undefined) return []
      const hasLevelRule = hasLevel(all, subject, outlook.body.direction)
      return rulesInForce(rules, subject).flatMap(({ kept: { rule } }) =>
        rule.kind === 'ahead' ? [{ outlook, rule, hasLevelRule }] : [],
      )
    })
  }

  async #settle({ rule, outlook, hasLevelRule, alert, nowMs, timeZone }: Settling): Promise<void> {
    const verdict = judgeAhead(
      rule,
      {
        verdict: outlook.verdict,
        runOutMs: outlook.runOutMs,
        orderedForMs: outlook.order === null ? null : Date.parse(outlook.order.expectedOn),
        hasLevelRule,
      },
      { nowMs, held: alert?.severity ?? null },
    )
    const { severity } = verdict
    if (severity === (alert?.severity ?? null)) return
    if (severity === null) {
      const { id, title } = alert!
      const words = outlook.order?.words
      const reason =
        words === undefined || verdict.because !== 'It has been ordered.'
          ? verdict.because
          : `It has been ordered: ${words}, expected on ${formatDate(Date.parse(outlook.order!.expectedOn), timeZone)}.`
      await this.alerts.clear(id, { title, reason, atMs: nowMs })
      return
    }
    const words = { ...wordsOf(rule, outlook, { ...verdict, severity }, timeZone), atMs: nowMs }
    if (alert !== undefined) return this.alerts.change(alert.id, words)
    const { seriesId, gearId, partId, measure } = outlook
    await this.alerts.open({
      ...words,
      ruleKey: rule.key,
      subject: `ahead ${seriesId}`,
      seriesId,
      gearId,
      partId,
      measure,
      sinceMs: nowMs,
    })
  }
}

interface Settling {
  readonly rule: AheadRule
  readonly outlook: Listing
  readonly hasLevelRule: boolean
  readonly alert: Open | undefined
  readonly nowMs: number
  readonly timeZone: string
}

const keyOf = ({ ruleKey, seriesId }: Pick<Open, 'ruleKey' | 'seriesId'>): string => `${ruleKey} ${seriesId}`

/** Days ahead beyond which no rule looks. */
const farthest = (rules: readonly KeptRule[]): number =>
  Math.max(
    0,
    ...rules.flatMap(({ rule }) => (rule.kind === 'ahead' ? rule.lines.map(({ days }) => days) : [])),
  )

function wordsOf(
  rule: AheadRule,
  { body, gear, gearKind, part, runOutMs, verdict }: Listing,
  { severity, daysLeft }: AheadVerdict & { readonly severity: Severity },
  timeZone: string,
) {
  const isOver = verdict === 'over'
  const day = (atMs: number | null): string | null => (atMs === null ? null : formatDate(atMs, timeZone))
  return {
    severity,
    title: aheadTitle({
      name: aheadName(gear, gearKind, part),
      kind: body.kind,
      daysLeft: isOver ? null : (daysLeft ?? 0),
    }),
    reason: aheadReason(rule, {
      line: body.line.words,
      date: isOver ? null : day(runOutMs),
      early: day(body.earlyMs),
      late: day(body.lateMs),
      sentence: body.sentence,
    }),
    line: lineWords(rule, severity),
  }
}
