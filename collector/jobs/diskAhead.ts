import { diskSeverity, type SpaceAhead, spaceAhead } from '#core/readings'
import { formatBytes } from '#core/units'
import { openAlertsOfRule } from '#db/alerts'
import type { Db } from '#db/platform'
import { listSurveys } from '#db/readings'
import type { AlertWriter } from '../judging/alertWriter.ts'

/** The store's own rule: its disk fills within days. It has no series and no source. */
export const DISK_RULE = 'store-disk'

/** Opens, changes and clears the alert that the disk under the store is going to be full. */
export async function judgeDisk(db: Db, alerts: AlertWriter, nowMs: number): Promise<void> {
  const ahead = spaceAhead(await listSurveys(db, Math.floor(nowMs / 86_400_000) - 40))
  const severity = diskSeverity(ahead)
  await db.transaction().execute(async (trx) => {
    const [open] = await openAlertsOfRule(trx, DISK_RULE)
    if (severity === null) {
      if (open === undefined) return
      const words = { title: 'The disk under the store', reason: 'There is room again.', atMs: nowMs }
      return alerts.clear(open.id, words, trx)
    }
    if (open?.severity === severity) return
    const words = { severity, ...diskWords(ahead), atMs: nowMs }
    if (open !== undefined) await alerts.change(open.id, words, trx)
    else await alerts.open({ ...words, ruleKey: DISK_RULE, subject: 'store', sinceMs: nowMs }, trx)
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
