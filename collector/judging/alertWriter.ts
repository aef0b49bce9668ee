import type { MeasureKey } from '#core/catalogue'
import type { Severity } from '#core/rules'
import { changeSeverity, clearAlert, openAlert } from '#db/alerts'
import { type Db, within } from '#db/platform'
import type { Notifier } from '../notify/notifier.ts'

/** Whom an alert is about. What is not said is not known, or does not apply. */
export interface AlertSubject {
  /** As it is told apart from others of the rule: «series 12», «source 3», «count», «text 4». */
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
}

export interface Opening extends AlertWords, AlertSubject {
  readonly ruleKey: string
  readonly value?: number | null
  /** Since when it has been so, which may be before it was noticed. */
  readonly sinceMs: number
  /** Those who would be told know already. */
  readonly isKnown?: boolean
}

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
  open(opening: Opening, trx: Db = this.db): Promise<number | null> {
    const { ruleKey, subject, severity, title, reason, line, value, atMs, sinceMs } = opening
    const { seriesId, sourceId, gearId, partId, measure, isKnown } = opening
    return within(trx, async (open) => {
      const id = await openAlert(open, {
        ruleKey,
        subject,
        seriesId: seriesId ?? null,
        sourceId: sourceId ?? null,
        gearId: gearId ?? null,
        partId: partId ?? null,
        measure: measure ?? null,
        severity,
        title,
        reason,
        line: line ?? null,
        value: value ?? null,
        sinceAt: new Date(sinceMs),
        openedAt: new Date(atMs),
      })
      if (id !== null && isKnown !== true)
        await this.notifier.notify(open, { alertId: id, event: 'opened', title, reason, atMs })
      return id
    })
  }

  /** It goes on with another severity; of what is milder nobody is told. */
  change(id: number, { severity, title, reason, line, atMs }: AlertWords, trx: Db = this.db): Promise<void> {
    return within(trx, async (open) => {
      const at = new Date(atMs)
      await changeSeverity(open, id, { severity, title, reason, at, ...(line === undefined ? {} : { line }) })
      if (severity === 'critical')
        await this.notifier.notify(open, { alertId: id, event: 'worse', title, reason, atMs })
    })
  }

  /** What was cleared already stays as it is, and nobody is told again. */
  clear(
    id: number,
    { title, reason, atMs }: Omit<AlertWords, 'severity' | 'line'>,
    trx: Db = this.db,
  ): Promise<void> {
    return within(trx, async (open) => {
      if (await clearAlert(open, id, new Date(atMs), reason))
        await this.notifier.notifyCleared(open, { alertId: id, title, reason, atMs })
    })
  }

  /** Its rule is gone, off or overridden: what it raised goes with it, and nobody needs to be told. */
  async withdraw(id: number, atMs: number): Promise<void> {
    await within(this.db, (trx) =>
      clearAlert(trx, id, new Date(atMs), 'Its rule is not in force here any more.'),
    )
  }
}
