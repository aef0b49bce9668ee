import { diskSeverity, type SpaceAhead, spaceAhead } from '#core/readings'
import { formatBytes } from '#core/units'
import { changeSeverity, clearAlert, openAlert, openAlertsOfRule } from '#db/alerts'
import type { Db } from '#db/platform'
import { listSurveys } from '#db/readings'
import type { Teller } from '../notify/notifier.ts'

/** The store's own rule: its disk fills within days. It has no series and no source. */
export const DISK_RULE = 'store-disk'

/** Opens, changes and clears the alert that the disk under the store is going to be full. */
export async function judgeDisk(db: Db, teller: Teller, nowMs: number): Promise<void> {
  const ahead = spaceAhead(await listSurveys(db, Math.floor(nowMs / 86_400_000) - 40))
  const severity = diskSeverity(ahead)
  const at = new Date(nowMs)
  await db.transaction().execute(async (trx) => {
    const open = (await openAlertsOfRule(trx, DISK_RULE))[0]
    if (severity === null) {
      if (open === undefined) return
      const reason = 'There is room again.'
      await clearAlert(trx, open.id, at, reason)
      await teller.tellCleared(trx, {
        alertId: open.id,
        title: 'The disk under the store',
        reason,
        atMs: nowMs,
      })
      return
    }
    if (open?.severity === severity) return
    const { title, reason } = diskWords(ahead)
    if (open !== undefined) {
      await changeSeverity(trx, open.id, { severity, title, reason, at })
      if (severity === 'critical')
        await teller.tell(trx, { alertId: open.id, event: 'worse', title, reason, atMs: nowMs })
      return
    }
    const subject = { seriesId: null, sourceId: null, gearId: null, partId: null, measure: null }
    const id = await openAlert(trx, {
      ruleKey: DISK_RULE,
      ...subject,
      subject: 'store',
      severity,
      title,
      reason,
      sinceAt: at,
      openedAt: at,
    })
    if (id !== null) await teller.tell(trx, { alertId: id, event: 'opened', title, reason, atMs: nowMs })
  })
}

function diskWords(ahead: SpaceAhead): { title: string; reason: string } {
  const days = ahead.kind === 'fills' ? Math.floor(ahead.inDays) : 0
  const rate = ahead.kind === 'fills' ? formatBytes(ahead.bytesADay) : '0'
  return {
    title: `The disk under the store is full in about ${days} days`,
    reason: `It grows by ${rate} a day. Make room, or keep readings for a shorter time under Settings, Space.`,
  }
}
