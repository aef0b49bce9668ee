import type { MeasureKey } from '../catalogue/index.ts'
import { SEVERITIES } from '../rules/index.ts'
import type { Cause, CausedAlert, TroubleKind } from './trouble.ts'
import type { CauseGear } from './ways.ts'

/** What a device says of a part in general, beside what is measured of it. */
const SAID: ReadonlySet<MeasureKey> = new Set(['hw.status', 'hw.drive.predicted_failure'])

/** Two ways to measure one thing. */
const SPEED: ReadonlySet<MeasureKey> = new Set(['hw.fan.speed', 'hw.fan.speed_ratio'])

/** Signs of one fault are noticed within this, each by its own persistence and source. */
const SIGN_MS = 5 * 60_000

/**
 * The alert that another is only a sign of. One fault of one part is one, however it shows: by what is measured, by what
 * the device says. What a gear says of itself as a whole, or an array of its pool, follows from the part that it says it of.
 */
export function signOf(
  alert: CausedAlert,
  onGear: ReadonlyMap<number, readonly CausedAlert[]>,
  gear: ReadonlyMap<number, CauseGear>,
): Cause | null {
  const [gearId] = alert.gearIds
  if (gearId === undefined || alert.measure === null || alert.gearIds.length !== 1) return null
  const others = (onGear.get(gearId) ?? []).filter(
    (other) =>
      other.id !== alert.id &&
      other.endedAtMs == null &&
      other.measure !== null &&
      Math.abs(other.sinceMs - alert.sinceMs) <= SIGN_MS &&
      rankOf(other) <= rankOf(alert),
  )
  const leads = (other: CausedAlert): boolean =>
    (rankOf(other) - rankOf(alert) || other.openedAtMs - alert.openedAtMs || other.id - alert.id) < 0
  const same = others.find((other) => isSameFault(alert, other) && leads(other))
  if (same !== undefined) return { causeId: same.id, path: 'both are signs of one fault' }
  if (!isRollUp(alert)) return null
  const part = others.find((other) => isPartOf(other, alert))
  const name = gear.get(gearId)?.name ?? 'it'
  return part === undefined ? null : { causeId: part.id, path: `${name} says it of a part of it` }
}

const rankOf = ({ severity }: CausedAlert): number => SEVERITIES.indexOf(severity ?? 'warning')

/**
 * Whether two alerts are two signs of one fault: one reading beyond two lines; of one part also where one is the word of
 * the device, or both measure one thing.
 */
function isSameFault(a: CausedAlert, b: CausedAlert): boolean {
  if (a.measure === null || b.measure === null || a.partId !== b.partId) return false
  if (a.measure === b.measure) return a.ruleKey !== b.ruleKey
  if (a.partId === null) return false
  return SAID.has(a.measure) || SAID.has(b.measure) || (SPEED.has(a.measure) && SPEED.has(b.measure))
}

/** Health that is made up of that of parts: of a gear as a whole; of a pool, while it is degraded and has not failed. */
const isRollUp = ({ measure, partId, partKind, value }: CausedAlert): boolean =>
  measure === 'hw.status' && (partId === null || (partKind === 'pool' && value === 1))

/** A pool is made of drives; a gear of everything in it. */
const isPartOf = (part: CausedAlert, whole: CausedAlert): boolean =>
  part.measure !== null &&
  SAID.has(part.measure) &&
  part.partId !== whole.partId &&
  (whole.partKind === 'pool' ? part.partKind === 'drive' : true)

/** Pushes and answers come over one network: when a collector hears neither, it is one trouble. */
export function blindToo(alert: CausedAlert, alerts: readonly CausedAlert[]): Cause | null {
  if (alert.isOfPushes !== true) return null
  const other = alerts.find(
    ({ isBlind, isOfPushes, sinceMs, endedAtMs }) =>
      isBlind && isOfPushes !== true && endedAtMs == null && Math.abs(sinceMs - alert.sinceMs) <= SIGN_MS,
  )
  return other === undefined ? null : { causeId: other.id, path: 'what is pushed comes to a collector, too' }
}

/** An outlet goes off with its strip, when that says of itself as a whole that it has failed. */
export const isOutletOfStrip = (
  alert: CausedAlert,
  other: CausedAlert,
  troubles: ReadonlyMap<number, TroubleKind>,
): boolean =>
  alert.partId !== null &&
  other.partId === null &&
  troubles.get(alert.id) === 'power' &&
  troubles.get(other.id) === 'power'

/**
 * Whether two sources of one box are silent: the one that was silent first stands for both. One tells of the box alone or of
 * part of what the other does; two that only share something, a store say, are two boxes.
 */
export function isSameSilence(alert: CausedAlert, other: CausedAlert): boolean {
  if (alert.sourceId === null || other.sourceId === null) return false
  if (alert.measure !== null || other.measure !== null || !isEarlier(other, alert)) return false
  const isPartOf = (a: CausedAlert, b: CausedAlert): boolean =>
    a.gearIds.every((id) => b.gearIds.includes(id))
  return isPartOf(alert, other) || isPartOf(other, alert)
}

export const isEarlier = (a: CausedAlert, b: CausedAlert): boolean =>
  a.sinceMs === b.sinceMs ? a.id < b.id : a.sinceMs < b.sinceMs
