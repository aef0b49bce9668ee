import type { Cause, CausedAlert } from './trouble.ts'
import type { Around } from './ways.ts'

/** Air is read at many places, and each has its own persistence. */
const AIR_LATER_MS = 30 * 60_000

/** Warm air where no link says what cools it: a cooling unit of the same room. */
export function fromTheRoom(
  alert: CausedAlert,
  {
    alerts,
    troubles,
    gear,
    mayCause,
  }: Pick<Around, 'alerts' | 'troubles' | 'gear'> & { readonly mayCause: (other: CausedAlert) => boolean },
): Cause | null {
  const own = gear.get(alert.gearIds[0] ?? -1)
  if (own === undefined || own.roomId === null) return null
  for (const other of alerts) {
    const unit = gear.get(other.gearIds[0] ?? -1)
    if (unit?.kind !== 'cooling' || unit.roomId !== own.roomId || !mayCause(other)) continue
    const trouble = troubles.get(other.id)
    if (trouble === 'cooling' || trouble === 'dark' || trouble === 'power')
      return { causeId: other.id, path: `${own.name} is in the same room as ${unit.name}` }
  }
  return null
}

/** Warm air that a gear draws in where a probe before its rack is warm: one place is warm, and not each gear by itself. */
export function fromBefore(
  alert: CausedAlert,
  { alerts, troubles, gear }: Pick<Around, 'alerts' | 'troubles' | 'gear'>,
): Cause | null {
  const own = gear.get(alert.gearIds[0] ?? -1)
  if (alert.role !== 'intake' || own?.rackId == null || own.kind === 'probe') return null
  for (const other of alerts) {
    const probe = gear.get(other.gearIds[0] ?? -1)
    if (probe?.kind !== 'probe' || probe.rackId !== own.rackId || probe.role !== 'intake') continue
    // A place may be warm for weeks before the next gear in it says so.
    if (troubles.get(other.id) !== 'heat' || other.endedAtMs != null) continue
    if (other.sinceMs <= alert.sinceMs + AIR_LATER_MS)
      return { causeId: other.id, path: `${own.name} draws the air that ${probe.name} measures` }
  }
  return null
}
