import { alertFinding } from '#core/alerts'
import type { WatchSource } from '../shell/watchSource.ts'
import { alertRows } from './alertRows.ts'

/** Open alerts that nobody has quieted; the sentence counts their rows. */
export const openAlerts: WatchSource = {
  hears: ['alerts', 'quiet', 'places', 'rules', 'callouts'],
  async load(present, window) {
    const alerts = await present.openAlerts()
    const loud = alerts.filter(({ quietId }) => quietId === null)
    const rows = await alertRows(present, loud, window)
    const folded = loud.length - rows.length
    const quiet = alerts.length - loud.length
    const quietCritical = alerts.filter(
      ({ quietId, severity, causeId }) => quietId !== null && severity === 'critical' && causeId === null,
    ).length
    return {
      finding: alertFinding(rows, quietCritical),
      rows,
      sourceIds: [...new Set(loud.flatMap(({ readerId }) => readerId ?? []))],
      notes: [
        ...(folded > 0 ? [`${folded} more folded under what explains them`] : []),
        ...(quiet > 0 ? [`${quiet} quieted or accepted`] : []),
      ],
    }
  },
}
