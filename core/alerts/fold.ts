import type { MeasureKey } from '../catalogue/index.ts'
import { SEVERITIES, type Severity } from '../rules/index.ts'

export interface Foldable {
  readonly id: number
  readonly gearId: number | null
  readonly partId: number | null
  readonly sourceId: number | null
  readonly measure: MeasureKey | null
  readonly severity: Severity
  readonly openedAtMs: number
  /** The open alert that explains it. */
  readonly causeId?: number | null
}

export interface Folded<A> {
  readonly lead: A
  /** The same trouble of the same part, seen in another way. */
  readonly folded: A[]
  /** What the lead explains. */
  readonly followOns: A[]
}

const keyOf = ({ id, partId }: Foldable): string => (partId === null ? `alert ${id}` : `part ${partId}`)

/** Alerts by what they are about; those whose cause is among them stand with it. */
function gathered<A extends Foldable>(
  alerts: readonly A[],
): { readonly groups: ReadonlyMap<string, A[]>; readonly followOns: ReadonlyMap<string, A[]> } {
  const groups = new Map<string, A[]>()
  const followOns = new Map<string, A[]>()
  const byId = new Map(alerts.map((alert) => [alert.id, alert]))
  for (const alert of alerts) {
    const cause = alert.causeId == null ? undefined : byId.get(alert.causeId)
    const [to, key] =
      cause !== undefined && cause.causeId == null && keyOf(cause) !== keyOf(alert)
        ? [followOns, keyOf(cause)]
        : [groups, keyOf(alert)]
    to.set(key, [...(to.get(key) ?? []), alert])
  }
  return { groups, followOns }
}

/**
 * What follows from another open alert is folded under it. One trouble seen in two ways is one row: alerts on the same part fold under the worst of them. Of equals a measured
 * one goes before a device's word on its own health, then the oldest. Alerts on a gear as a whole, or on a source, stand for themselves.
 * @returns rows by severity, then newest first.
 */
export function foldAlerts<A extends Foldable>(alerts: readonly A[]): Folded<A>[] {
  const { groups, followOns } = gathered(alerts)
  const rank = (alert: A): number => SEVERITIES.indexOf(alert.severity)
  // A cause is as bad as what follows from it.
  const worstOf = ({ lead, followOns: own }: Folded<A>): number => Math.min(rank(lead), ...own.map(rank))
  const vague = (alert: A): number => (alert.measure === 'hw.status' ? 1 : 0)
  return [...groups.values()]
    .map((group) => {
      const [lead, ...folded] = group.sort(
        (a, b) => rank(a) - rank(b) || vague(a) - vague(b) || a.openedAtMs - b.openedAtMs || a.id - b.id,
      )
      return { lead: lead!, folded, followOns: followOns.get(keyOf(lead!)) ?? [] }
    })
    .sort((a, b) => worstOf(a) - worstOf(b) || b.lead.openedAtMs - a.lead.openedAtMs)
}

/** What an outage that is over has left, and that has time to be well again: its cause is not open any more. */
export function isRecovering(alert: Pick<Foldable, 'causeId'>, openIds: ReadonlySet<number>): boolean {
  return alert.causeId != null && !openIds.has(alert.causeId)
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
