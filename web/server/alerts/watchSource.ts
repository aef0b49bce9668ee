import { alertFinding, isRecovering } from '#core/alerts'
import { clearedSince } from '#db/alerts'
import type { Present } from '../platform/present.ts'
import type { WatchSource } from '../shell/watchSource.ts'
import { alertRows } from './alertRows.ts'

/** A collector tells what an outage has left within half an hour; of one that is away what is left comes back here. */
const RECOVERING_MS = 40 * 60_000

/** Ids of the quiets by which something is expected to be off: that it is off is as it should be. */
async function expectedOff(present: Present): Promise<ReadonlySet<number>> {
  const quiets = await present.quiets()
  return new Set(quiets.flatMap(({ id, scope }) => (scope.isOff === true ? [id] : [])))
}

/** Open alerts that nobody has quieted; the sentence counts their rows. */
export const openAlerts: WatchSource = {
  hears: ['alerts', 'quiet', 'places', 'rules', 'callouts'],
  async load(present, window) {
    const alerts = await present.openAlerts()
    const loud = alerts.filter(({ quietId }) => quietId === null)
    const openIds = new Set(alerts.map(({ id }) => id))
    const over = await clearedSince(
      present.db,
      loud.flatMap(({ causeId }) => causeId ?? []),
      new Date(present.nowMs - RECOVERING_MS),
    )
    const standing = loud.filter((alert) => !(isRecovering(alert, openIds) && over.has(alert.causeId ?? -1)))
    const recovering = loud.length - standing.length
    const quiet = alerts.length - loud.length
    const [rows, offIds] = await Promise.all([
      alertRows(present, standing, window),
      quiet === 0 ? new Set<number>() : expectedOff(present),
    ])
    const folded = standing.length - rows.length
    const quietCritical = alerts.filter(
      ({ quietId, severity, causeId }) =>
        quietId !== null && severity === 'critical' && causeId === null && !offIds.has(quietId),
    ).length
    return {
      finding: alertFinding(rows, quietCritical),
      rows,
      sourceIds: [...new Set(loud.flatMap(({ readerId }) => readerId ?? []))],
      notes: [
        ...(recovering > 0 ? [`${recovering} recovering from what is over`] : []),
        ...(folded > 0 ? [`${folded} more folded under what explains them`] : []),
        ...(quiet > 0 ? [`${quiet} quieted or accepted`] : []),
      ],
    }
  },
}
