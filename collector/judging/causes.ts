import { listNames } from '#core/rules'
import { causesOf, fedOnlyBy, followOnWords } from '#core/alerts'
import {
  listCaused,
  listCauseGraph,
  type OpenCaused,
  unnotifiedAlert,
  writeCause,
  writeConsequence,
} from '#db/alerts'
import type { Db } from '#db/platform'
import { latestReadings } from '#db/readings'
import type { Notifier } from '../notify/notifier.ts'

const GRAPH_FOR_MS = 15_000

/**
 * Finds out which open alerts follow from others, and says so on them; who was not told because there was a cause is
 * told once the cause has gone and the trouble has not.
 */
export class Causes {
  #graph: Awaited<ReturnType<typeof listCauseGraph>> | null = null
  #graphAtMs = 0

  constructor(
    private readonly db: Db,
    private readonly notifier: Notifier,
  ) {}

  refresh(): void {
    this.#graph = null
  }

  async look(nowMs: number): Promise<void> {
    const found = await listCaused(this.db)
    if (found.length === 0) return
    const latest = await latestReadings(this.db)
    const alerts = found.map((alert) => ({
      ...alert,
      value: (alert.seriesId === null ? null : latest.get(alert.seriesId)?.value) ?? alert.value,
    }))
    if (this.#graph === null || nowMs - this.#graphAtMs > GRAPH_FOR_MS) {
      this.#graph = await listCauseGraph(this.db)
      this.#graphAtMs = nowMs
    }
    const { gear, links } = this.#graph
    const causes = causesOf(alerts, gear, links)
    const titleOf = new Map(alerts.map(({ id, title }) => [id, title]))
    for (const alert of alerts) {
      const cause = causes.get(alert.id) ?? null
      if (cause?.causeId === alert.causeId && cause.path === alert.causePath) continue
      if (cause === null && alert.causeId === null) continue
      await writeCause(this.db, alert.id, cause, titleOf.get(cause?.causeId ?? -1) ?? '', new Date(nowMs))
      if (cause === null) await this.#tellAfterAll(alert, nowMs)
    }
    const following = new Map<number, OpenCaused[]>()
    for (const alert of alerts) {
      const causeId = causes.get(alert.id)?.causeId
      if (causeId !== undefined) following.set(causeId, [...(following.get(causeId) ?? []), alert])
    }
    for (const alert of alerts) {
      const consequence = this.#consequenceOf(alert, following.get(alert.id) ?? [])
      if (consequence !== (alert.consequence ?? '')) await writeConsequence(this.db, alert.id, consequence)
    }
  }

  #consequenceOf(alert: OpenCaused, following: readonly OpenCaused[]): string {
    const { gear, links } = this.#graph!
    const words = followOnWords(
      following.map(({ title, gearIds, gearName }) => {
        const about = gear.get(gearIds[0] ?? -1)
        return { title, kind: about?.kind ?? null, gearName: gearName ?? about?.name ?? null }
      }),
    )
    const upsId = alert.measure === 'ups.output.source' ? alert.gearIds[0] : undefined
    if (upsId === undefined) return words
    const alone = fedOnlyBy(upsId, gear, links).map(({ name }) => name)
    const feeds =
      alone.length === 0
        ? 'All that it feeds has a second feed.'
        : `Without a second feed: ${listNames(alone, 8)}.`
    return [feeds, words].filter(Boolean).join(' ')
  }

  async #tellAfterAll(alert: OpenCaused, nowMs: number): Promise<void> {
    await this.db.transaction().execute(async (trx) => {
      const row = await unnotifiedAlert(trx, alert.id, nowMs)
      if (row === null) return
      const reason = `Its cause has gone, and it still holds: ${row.reason}`
      await this.notifier.notify(trx, {
        alertId: alert.id,
        event: 'opened',
        title: alert.title,
        reason,
        atMs: nowMs,
      })
    })
  }
}
