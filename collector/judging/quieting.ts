import { compareAccepted } from '#core/alerts'
import { measureOf, formatReading } from '#core/catalogue'
import {
  announceEnd,
  coversOf,
  endQuiet,
  isAnyQuiet,
  listQuietable,
  listQuiets,
  markQuiet,
  type QuietableAlert,
  type QuietRow,
  unmarkQuiet,
} from '#db/alerts'
import type { Db } from '#db/platform'
import { latestReadings } from '#db/readings'
import type { Notifier } from '../notify/notifier.ts'

/** One that ends within this, and still keeps something quiet, is announced. */
const ANNOUNCE_MS = 30 * 60_000

/**
 * Marks open alerts as quiet and as quiet no longer, ends what is over, and has accepted states come back when anything
 * about them changes. What comes back is told as if it had opened now.
 */
export class Quieting {
  constructor(
    private readonly db: Db,
    private readonly notifier: Notifier,
  ) {}

  async look(nowMs: number): Promise<void> {
    const quiets = await listQuiets(this.db, nowMs)
    if (quiets.length === 0 && !(await isAnyQuiet(this.db))) return
    const alerts = await listQuietable(this.db)
    const changed = await this.#returned(quiets, alerts, nowMs)
    for (const quiet of quiets)
      // What cannot be evaluated stays for somebody to see; it keeps nothing quiet.
      if (quiet.time === null && !quiet.isBroken && !changed.has(quiet.id))
        await endQuiet(this.db, quiet.id, { at: new Date(nowMs), by: null, why: 'Its time is over.' })
    const left = quiets.filter(({ id }) => !changed.has(id))
    const covers = await coversOf(this.db, left, alerts)
    for (const alert of alerts) {
      const cover = covers.get(alert.id)
      if (cover !== undefined && alert.quietId === null)
        await this.db.transaction().execute((trx) => markQuiet(trx, alert.id, cover, nowMs))
      if (cover === undefined && alert.quietId !== null)
        await this.#unmark(
          alert,
          changed.get(alert.quietId) ?? 'The quiet is over, and it still holds.',
          nowMs,
        )
    }
    await this.#announce(left, covers, nowMs)
  }

  /** What is accepted and is not what it was any more, with why. */
  async #returned(
    quiets: readonly QuietRow[],
    alerts: readonly QuietableAlert[],
    nowMs: number,
  ): Promise<Map<number, string>> {
    const accepted = quiets.filter((quiet) => quiet.what === 'accept')
    if (accepted.length === 0) return new Map()
    const latest = await latestReadings(this.db)
    const changed = new Map<number, string>()
    for (const quiet of accepted) {
      const was = quiet.accepted!
      const alert = alerts.find((each) => each.ruleKey === was.ruleKey && each.subject === was.subject)
      const state = alert?.seriesId == null ? null : (latest.get(alert.seriesId)?.value ?? null)
      const verdict = compareAccepted(
        was,
        alert === undefined
          ? null
          : {
              severity: alert.severity,
              // Where nothing is heard now, it is not known to be another.
              state: state ?? was.state,
              words: stateWords(alert, state),
            },
      )
      if (verdict.kind === 'same') continue
      changed.set(quiet.id, verdict.why)
      await endQuiet(this.db, quiet.id, { at: new Date(nowMs), by: null, why: verdict.why })
    }
    return changed
  }

  async #unmark(alert: QuietableAlert, why: string, nowMs: number): Promise<void> {
    await this.db.transaction().execute(async (trx) => {
      await unmarkQuiet(trx, alert.id, why, nowMs)
      await this.notifier.notify(trx, {
        alertId: alert.id,
        event: 'opened',
        title: alert.title,
        reason: `${why} ${alert.reason}`,
        atMs: nowMs,
        isAgain: true,
      })
    })
  }

  /** Says on what it keeps quiet that one is about to end, once. */
  async #announce(
    quiets: readonly QuietRow[],
    covers: ReadonlyMap<number, QuietRow>,
    nowMs: number,
  ): Promise<void> {
    for (const quiet of quiets) {
      const endMs = quiet.time?.toMs
      if (!quiet.holds || quiet.isAnnounced || endMs == null || quiet.repeats !== null) continue
      const lengthMs = endMs - quiet.time!.fromMs
      if (endMs - nowMs > Math.min(ANNOUNCE_MS, lengthMs / 4)) continue
      const minutes = Math.max(1, Math.round((endMs - nowMs) / 60_000))
      const alertIds = [...covers].flatMap(([alertId, cover]) => (cover.id === quiet.id ? [alertId] : []))
      const text = `It is quiet for another ${minutes} min only.`
      await announceEnd(this.db, { quietId: quiet.id, alertIds, text, atMs: nowMs })
    }
  }
}

function stateWords({ measure }: QuietableAlert, state: number | null): string {
  if (measure === null || state === null) return 'nothing is heard'
  return `${measureOf(measure).label.toLowerCase()} is ${formatReading(measure, state)} now`
}
