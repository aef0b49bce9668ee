import type { MeasureKey } from '../measures/index.ts'
import { SEVERITIES, type Severity } from '../rules/index.ts'

export interface Foldable {
  readonly id: number
  readonly gearId: number | null
  readonly partId: number | null
  readonly sourceId: number | null
  readonly measure: MeasureKey | null
  readonly severity: Severity
  readonly openedAtMs: number
}

/**
 * One trouble seen in two ways is one row: alerts on the same part fold under the worst of them. Of equals a measured
 * one goes before a device's word on its own health, then the oldest. Alerts on a gear as a whole, or on a source, stand for themselves.
 * @returns rows by severity, then newest first.
 */
export function foldByPart<A extends Foldable>(alerts: readonly A[]): { lead: A; folded: A[] }[] {
  const groups = new Map<string, A[]>()
  for (const alert of alerts) {
    const key = alert.partId === null ? `alert ${alert.id}` : `part ${alert.partId}`
    groups.set(key, [...(groups.get(key) ?? []), alert])
  }
  const rank = (alert: A): number => SEVERITIES.indexOf(alert.severity)
  const vague = (alert: A): number => (alert.measure === 'hw.status' ? 1 : 0)
  return [...groups.values()]
    .map((group) => {
      const [lead, ...folded] = group.sort(
        (a, b) => rank(a) - rank(b) || vague(a) - vague(b) || a.openedAtMs - b.openedAtMs || a.id - b.id,
      )
      return { lead: lead!, folded }
    })
    .sort((a, b) => rank(a.lead) - rank(b.lead) || b.lead.openedAtMs - a.lead.openedAtMs)
}

/** Alerts that went away, newest first: of those that overlapped on one part only the newest is left. */
export function foldCleared<
  A extends { readonly partId: number | null; readonly openedAtMs: number; readonly clearedAtMs: number },
>(cleared: readonly A[]): A[] {
  return cleared.filter(
    (alert, index) =>
      alert.partId === null ||
      !cleared
        .slice(0, index)
        .some(
          (newer) =>
            newer.partId === alert.partId &&
            newer.openedAtMs <= alert.clearedAtMs &&
            newer.clearedAtMs >= alert.openedAtMs,
        ),
  )
}
