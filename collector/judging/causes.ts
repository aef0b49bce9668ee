import { listNames } from '#core/rules'
import { measureOf } from '#core/catalogue'
import {
  askedAbout,
  causesOf,
  fedOnlyBy,
  followOnWords,
  isNextWord,
  isSilentAltogether,
  pluggedInto,
} from '#core/alerts'
import {
  listCaused,
  listCauseGraph,
  type OpenCaused,
  unnotifiedAlert,
  writeCause,
  writeConsequence,
} from '#db/alerts'
import { isNextWordKnown, skipWaiting } from '#db/callouts'
import type { Db } from '#db/platform'
import { latestReadings } from '#db/readings'
import { requestChecksOf } from '#db/sources'
import type { Notifier } from '../notify/notifier.ts'
import { AlertWriter } from './alertWriter.ts'

const GRAPH_FOR_MS = 15_000
/** For so long after it opened it is asked what an alert may follow from: after that it has been told. */
const FRESH_MS = 15_000
/** The same next word is not said again within this, however often it comes and goes. */
const SAME_WORD_MS = 15 * 60_000
/** What follows from a cause is well again some time after it, at the pace at which it is asked. */
const RECOVER_MS = 3 * 60_000
/** After this a battery that is charged has left its lines, or something is wrong with it. */
const STILL_DRAINED_MS = 30 * 60_000

const isOfPlug = (measure: string | null): boolean =>
  measure === 'hw.network.up' || measure === 'hw.outlet.state'

/**
 * Finds out which open alerts follow from others, and says so on them; who was not told because there was a cause is
 * told once the cause has gone and the trouble has not.
 */
export class Causes {
  #graph: Awaited<ReturnType<typeof listCauseGraph>> | null = null
  #graphAtMs = 0
  /** What was said already of each open alert; after a restart the messages themselves know. */
  readonly #said = new Map<number, Set<string>>()

  readonly #alerts: AlertWriter

  constructor(
    private readonly db: Db,
    private readonly notifier: Notifier,
  ) {
    this.#alerts = new AlertWriter(db, notifier)
  }

  refresh(): void {
    this.#graph = null
  }

  async look(nowMs: number): Promise<void> {
    const found = await listCaused(this.db, new Date(nowMs - RECOVER_MS))
    if (found.every(({ endedAtMs }) => endedAtMs != null)) return
    const latest = await latestReadings(this.db)
    const alerts = found.map((alert) => ({
      ...alert,
      openedValue: alert.value,
      value: (alert.seriesId === null ? null : latest.get(alert.seriesId)?.value) ?? alert.value,
    }))
    if (this.#graph === null || nowMs - this.#graphAtMs > GRAPH_FOR_MS) {
      this.#graph = await listCauseGraph(this.db)
      this.#graphAtMs = nowMs
    }
    const { gear, links } = this.#graph
    const causes = causesOf(alerts, gear, links)
    await this.#askAround(
      alerts.filter(({ id, endedAtMs }) => endedAtMs == null && !causes.has(id)),
      nowMs,
    )
    const byId = new Map(alerts.map((alert) => [alert.id, alert]))
    for (const id of this.#said.keys()) if (!byId.has(id)) this.#said.delete(id)
    const titleOf = new Map(alerts.map(({ id, title }) => [id, title]))
    for (const alert of alerts) {
      if (alert.endedAtMs != null) continue
      const found = causes.get(alert.id) ?? null
      const leading = found === null ? undefined : byId.get(found.causeId)
      const isOver = leading?.endedAtMs != null
      const cause = isOver ? null : found
      const isNext = isNextWord(alert, gear.get(alert.gearIds[0] ?? -1)?.kind ?? null)
      if (leading !== undefined && !isOver && isSilentAltogether(alert, leading))
        await this.#alerts.change(leading.id, {
          severity: 'critical',
          title: leading.title,
          reason: alert.reason,
          atMs: nowMs,
        })
      if (cause !== null && isNext) await this.#tellNextWord(alert, cause.causeId, nowMs)
      // Noticed only now that its cause is over: it has time to be well again, too.
      if (isOver && alert.causeId === null && this.#isUnsaid(alert.id, 'over'))
        await this.#tellAfterAll(alert, nowMs, isNext ? STILL_DRAINED_MS : RECOVER_MS)
      // What an outage has left is folded under it, and told to nobody, while it has time to be well again.
      if (isOver && !isNext && found !== null) {
        if (alert.causeId === null)
          await writeCause(this.db, alert.id, found, titleOf.get(found.causeId) ?? '', new Date(nowMs))
        if (alert.causeId === null || alert.causeId === found.causeId) continue
      }
      if (cause?.causeId === alert.causeId && cause.path === alert.causePath) continue
      if (cause === null && alert.causeId === null) continue
      await writeCause(this.db, alert.id, cause, titleOf.get(cause?.causeId ?? -1) ?? '', new Date(nowMs))
      if (cause !== null) continue
      // What was wrongly explained is told at once; what a cause that is over has left has time to be well again.
      this.#isUnsaid(alert.id, 'over')
      const former = byId.get(alert.causeId!)
      await this.#tellAfterAll(
        alert,
        nowMs,
        isNext ? STILL_DRAINED_MS : former?.endedAtMs != null ? RECOVER_MS : 0,
      )
    }
    const following = new Map<number, OpenCaused[]>()
    for (const alert of alerts) {
      const causeId = causes.get(alert.id)?.causeId
      if (causeId !== undefined) following.set(causeId, [...(following.get(causeId) ?? []), alert])
    }
    for (const alert of alerts) {
      if (alert.endedAtMs != null) continue
      const consequence = this.#consequenceOf(alert, following.get(alert.id) ?? [])
      if (consequence !== (alert.consequence ?? '')) await writeConsequence(this.db, alert.id, consequence)
    }
  }

  /** Whether it was not said yet; from now on it is. */
  #isUnsaid(alertId: number, what: string): boolean {
    const said = this.#said.get(alertId) ?? new Set()
    this.#said.set(alertId, said)
    if (said.has(what)) return false
    said.add(what)
    return true
  }

  #consequenceOf(alert: OpenCaused, following: readonly OpenCaused[]): string {
    const { gear, links } = this.#graph!
    const words = followOnWords(
      following.map(({ title, gearIds, gearName }) => {
        const about = gear.get(gearIds[0] ?? -1)
        return { title, kind: about?.kind ?? null, gearName: gearName ?? about?.name ?? null }
      }),
    )
    const [gearId] = alert.gearIds
    if (gearId !== undefined && alert.partId !== null && isOfPlug(alert.measure)) {
      const plugged = pluggedInto(gearId, alert.partId, gear, links).map(({ name }) => name)
      return [plugged.length === 0 ? '' : `Behind it: ${listNames(plugged, 4)}.`, words]
        .filter(Boolean)
        .join(' ')
    }
    const upsId = alert.measure === 'ups.output.source' ? gearId : undefined
    if (upsId === undefined) return words
    const alone = fedOnlyBy(upsId, gear, links).map(({ name }) => name)
    const feeds =
      alone.length === 0
        ? 'All that it feeds has a second feed.'
        : `Without a second feed: ${listNames(alone, 8)}.`
    return [feeds, words].filter(Boolean).join(' ')
  }

  /** What gets worse under an open alert of the same gear is told as the next word on that one. */
  async #tellNextWord(
    alert: OpenCaused & { readonly openedValue: number | null },
    causeId: number,
    nowMs: number,
  ): Promise<void> {
    const { id, title, reason, measure } = alert
    // A state that changes is another word.
    const state = measure !== null && measureOf(measure).kind === 'state' ? ` ${alert.openedValue}` : ''
    const key = `${alert.key}${state}`
    if (!this.#isUnsaid(id, key)) return
    await this.db.transaction().execute(async (trx) => {
      const since = new Date(Math.min(alert.openedAtMs, nowMs - SAME_WORD_MS))
      if (await isNextWordKnown(trx, causeId, key, since)) return
      const next = { alertId: id, key }
      await this.notifier.notify(trx, { alertId: causeId, event: 'worse', title, reason, atMs: nowMs, next })
    })
  }

  /**
   * Before a trouble is told by itself, what it may follow from is read: a strip that is asked once a minute tripped before
   * the server that hangs on it said that it is off.
   */
  async #askAround(alone: readonly OpenCaused[], nowMs: number): Promise<void> {
    const { gear, links } = this.#graph!
    const fresh = alone.filter(({ openedAtMs }) => nowMs - openedAtMs < FRESH_MS)
    if (fresh.length === 0) return
    const asked = new Set(fresh.flatMap((alert) => askedAbout(alert, gear, links)))
    const sinceMs = Math.max(...fresh.map(({ openedAtMs }) => openedAtMs))
    await requestChecksOf(this.db, [...asked], { sinceMs, atMs: nowMs })
  }

  async #tellAfterAll(alert: OpenCaused, nowMs: number, waitMs: number): Promise<void> {
    await this.db.transaction().execute(async (trx) => {
      const row = await unnotifiedAlert(trx, alert.id, nowMs)
      if (row === null) return
      await skipWaiting(trx, [alert.id], 'its cause has gone: told anew should it stay', ['opened', 'worse'])
      const reason = `Its cause has gone, and it still holds: ${row.reason}`
      await this.notifier.notify(trx, {
        alertId: alert.id,
        event: 'opened',
        title: alert.title,
        reason,
        atMs: nowMs,
        waitMs,
      })
    })
  }
}
