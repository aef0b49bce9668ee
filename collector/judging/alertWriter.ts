import type { MeasureKey } from '#core/catalogue'
import type { Severity } from '#core/rules'
import { changeSeverity, clearAlerts, type NewAlert, openAlerts } from '#db/alerts'
import { type Db, within } from '#db/platform'
import type { News, Notifier } from '../notify/notifier.ts'

/** Whom an alert is about. What is not said is not known, or does not apply. */
export interface AlertSubject {
  /** As it is told apart from others of the rule: `series 12`, `source 3`, `count`, `text 4`. */
  readonly subject: string
  readonly seriesId?: number | null
  readonly sourceId?: number | null
  readonly gearId?: number | null
  readonly partId?: number | null
  readonly measure?: MeasureKey | null
}

/** How an alert stands at an instant, in words. */
export interface AlertWords {
  readonly severity: Severity
  readonly title: string
  readonly reason: string
  /** The line that it is beyond, in words. */
  readonly line?: string
  readonly atMs: number
  /** It goes on as bad as before, in another state. */
  readonly otherState?: number
  /** That is told. */
  readonly tellsState?: boolean
}

export interface Opening extends AlertWords, AlertSubject {
  readonly ruleKey: string
  readonly value?: number | null
  /** Since when it has been so, which may be before it was noticed. */
  readonly sinceMs: number
  /** Those who would be told know already. */
  readonly isKnown?: boolean
}

/** How an alert ended, in words. */
export type Ending = Omit<AlertWords, 'severity' | 'line'>

const newAlert = (opening: Opening): NewAlert => ({
  ruleKey: opening.ruleKey,
  subject: opening.subject,
  seriesId: opening.seriesId ?? null,
  sourceId: opening.sourceId ?? null,
  gearId: opening.gearId ?? null,
  partId: opening.partId ?? null,
  measure: opening.measure ?? null,
  severity: opening.severity,
  title: opening.title,
  reason: opening.reason,
  line: opening.line ?? null,
  value: opening.value ?? null,
  sinceAt: new Date(opening.sinceMs),
  openedAt: new Date(opening.atMs),
})

/**
 * Writes what becomes of an alert together with the messages about it: each in one transaction, or in the one that is
 * under way.
 */
export class AlertWriter {
  constructor(
    private readonly db: Db,
    private readonly notifier: Notifier,
  ) {}

  /** @returns its id, `null` when one of this rule is open on this subject already */
  async open(opening: Opening, trx: Db = this.db): Promise<number | null> {
    return (await this.openAll([opening], trx))[0]!
  }

  /** @returns the same for each, in their order */
  openAll(openings: readonly Opening[], trx: Db = this.db): Promise<(number | null)[]> {
    return within(trx, async (open) => {
      const ids = await openAlerts(open, openings.map(newAlert))
      const news = openings.flatMap(({ isKnown, title, reason, atMs }, index): News[] => {
        const id = ids[index]
        return id == null || isKnown === true ? [] : [{ alertId: id, event: 'opened', title, reason, atMs }]
      })
      if (news.length > 0) await this.notifier.notify(open, ...news)
      return ids
    })
  }

  /** It goes on with another severity; of what is milder nobody is told. */
  change(id: number, words: AlertWords, trx: Db = this.db): Promise<void> {
    const { severity, title, reason, line, atMs, otherState, tellsState } = words
    return within(trx, async (open) => {
      const at = new Date(atMs)
      await changeSeverity(open, id, {
        severity,
        title,
        reason,
        at,
        ...(line === undefined ? {} : { line }),
        ...(otherState === undefined ? {} : { value: otherState }),
      })
      if (otherState === undefined ? severity === 'critical' : tellsState)
        await this.notifier.notify(open, { alertId: id, event: 'worse', title, reason, atMs })
    })
  }

  clear(id: number, ending: Ending, trx: Db = this.db): Promise<void> {
    return this.clearAll([{ id, ...ending }], trx)
  }

  /** What was cleared already stays as it is, and nobody is told again. */
  clearAll(endings: readonly (Ending & { readonly id: number })[], trx: Db = this.db): Promise<void> {
    return within(trx, async (open) => {
      const cleared = await clearAlerts(
        open,
        endings.map(({ id, reason, atMs }) => ({ id, reason, at: new Date(atMs) })),
      )
      const news = endings
        .filter(({ id }) => cleared.has(id))
        .map(({ id, title, reason, atMs }) => ({ alertId: id, title, reason, atMs }))
      if (news.length > 0) await this.notifier.notifyCleared(open, ...news)
    })
  }

  /** Its rule is gone, off or overridden: what it raised goes with it, and nobody needs to be told. */
  async withdraw(id: number, atMs: number, trx: Db = this.db): Promise<void> {
    await within(trx, (open) =>
      clearAlerts(open, [{ id, at: new Date(atMs), reason: 'Its rule is not in force here any more.' }]),
    )
  }
}
