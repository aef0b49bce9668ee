import type { GearKind } from '../catalogue/index.ts'
import { needOf } from '../links/index.ts'
import { fromBefore, fromTheRoom } from './air.ts'
import { blindToo, isEarlier, isOutletOfStrip, isSameSilence, signOf } from './signs.ts'
import { type Cause, type CausedAlert, type TroubleKind, troubleOf } from './trouble.ts'
import {
  ALONG,
  type Around,
  type CauseGear,
  type CauseLink,
  endAt,
  isCutOff,
  isOfLink,
  isShared,
  isWay,
  type Step,
  VERBS,
} from './ways.ts'

/** Troubles that a trouble of the same gear brings along. */
const HERE: Readonly<Partial<Record<TroubleKind, readonly TroubleKind[]>>> = {
  power: ['draining', 'empty'],
  battery: ['draining', 'empty'],
  off: ['dark', 'link', 'supply'],
}

/** A cause is noticed up to this later than what follows from it: each is asked at its own pace. */
const LATER_MS = 120_000

/** What follows from a cause follows within this: what begins later has a reason of its own. Air takes its time to warm. */
const WITHIN_MS: Readonly<Partial<Record<TroubleKind, number>>> = {
  dark: 5 * 60_000,
  off: 5 * 60_000,
  supply: 5 * 60_000,
  power: 5 * 60_000,
  link: 5 * 60_000,
  still: 5 * 60_000,
  heat: 2 * 3_600_000,
}

/** Of what is over a moment ago its last minutes count. */
const OVER_MS = 15 * 60_000

/** What is stored elsewhere stops with its store; a camera goes on without its recorder. */
const NEEDS_ITS_STORE: ReadonlySet<GearKind> = new Set(['machine', 'host', 'server', 'store', 'volume'])

/** Heard so much after a trouble began, a gear was alive in it: sources are asked at their own pace. */
const ALIVE_MS = 15_000

/** No farther than this many links away. */
const MOST_STEPS = 5

/**
 * Which open alert explains which other: along links from who needs to what is needed, from a gear to itself, from a
 * cooling unit to the air of its room, and from a collector gone blind to all that it read. Of several the nearest; an
 * explanation that is explained itself leads on to its own, so that the first cause is named.
 */
export function causesOf(
  alerts: readonly CausedAlert[],
  gear: ReadonlyMap<number, CauseGear>,
  links: readonly CauseLink[],
): Map<number, Cause> {
  const troubles = new Map(
    alerts.map((alert) => [alert.id, troubleOf(alert, gear.get(alert.gearIds[0] ?? -1)?.kind ?? null)]),
  )
  const onGear = new Map<number, CausedAlert[]>()
  for (const alert of alerts)
    for (const gearId of alert.isBlind ? [] : alert.gearIds)
      onGear.set(gearId, [...(onGear.get(gearId) ?? []), alert])
  const needs = new Map<number, Step[]>()
  const addNeed = (who: number, step: Step): void => {
    needs.set(who, [...(needs.get(who) ?? []), step])
  }
  for (const link of links) {
    const { who, whom } = needOf({ kind: link.kind, fromId: link.fromGearId, toId: link.toGearId })
    addNeed(who, { gearId: whom, kind: link.kind, link })
    // A wire carries both ways.
    if (link.kind === 'wired-to') addNeed(whom, { gearId: who, kind: link.kind, link })
  }
  const direct = new Map<number, Cause>()
  for (const alert of alerts) {
    if (alert.endedAtMs != null) continue
    const cause = nearest(alert, { alerts, troubles, onGear, needs, gear })
    if (cause !== null) direct.set(alert.id, cause)
  }
  return toTheFirst(direct)
}

function nearest(alert: CausedAlert, { alerts, troubles, onGear, needs, gear }: Around): Cause | null {
  const sign = signOf(alert, onGear, gear)
  if (sign !== null) return sign
  const own = troubles.get(alert.id)!
  if (own === 'blind') return blindToo(alert, alerts)
  if (own === 'other') return null
  const within = WITHIN_MS[own] ?? Infinity
  const mayCause = (other: CausedAlert): boolean =>
    other.id !== alert.id &&
    other.sinceMs <= alert.sinceMs + LATER_MS &&
    (other.endedAtMs == null || alert.sinceMs <= other.endedAtMs) &&
    (other.isBlind ||
      (other.endedAtMs == null
        ? alert.sinceMs <= other.sinceMs + within || givesNothing(other, troubles, own)
        : alert.sinceMs >= other.endedAtMs - OVER_MS))
  const name = (id: number): string => gear.get(id)?.name ?? 'it'
  if (own === 'dark' && alert.sourceId !== null) {
    const blind = alerts.find((other) => other.isBlind && other.sourceIds.includes(alert.sourceId!))
    if (blind !== undefined)
      return { causeId: blind.id, path: 'the collector that reads it hears many no more' }
  }
  for (const gearId of alert.gearIds)
    for (const other of onGear.get(gearId) ?? []) {
      if (!mayCause(other)) continue
      if (HERE[troubles.get(other.id)!]?.includes(own) || isOutletOfStrip(alert, other, troubles))
        return { causeId: other.id, path: `both are of ${name(gearId)}` }
      if (isSameSilence(alert, other)) return { causeId: other.id, path: `both tell of ${name(gearId)}` }
    }

  // Outwards from the gear, link by link, along links of kinds that can carry such a trouble.
  // A strip is come to by each of its outlets, and gone on from once.
  const seen = new Set<string>()
  const gone = new Set(alert.gearIds)
  let front: { gearId: number; path: string; isByWire?: boolean }[] = alert.gearIds.map((gearId) => ({
    gearId,
    path: '',
  }))
  for (let steps = 0; steps < MOST_STEPS && front.length > 0; steps += 1) {
    const next: typeof front = []
    for (const { gearId, path, isByWire = false } of front)
      for (const { gearId: whom, kind, link } of needs.get(gearId) ?? []) {
        if (isByWire && kind !== 'wired-to') continue
        const isStrip = gear.get(whom)?.kind === 'pdu'
        const end = `${whom} ${(isStrip ? endAt(link, whom) : null) ?? ''}`
        if (seen.has(end) || alert.gearIds.includes(whom) || !isWay(own, kind, alert, gearId, link)) continue
        if (isShared(own, kind) && !isCutOff(own, gearId, kind, { troubles, onGear, needs })) continue
        if (kind === 'stores-on' && !NEEDS_ITS_STORE.has(gear.get(gearId)?.kind ?? 'machine')) continue
        const words = `${path === '' ? '' : `${path}, which `}${path === '' ? `${name(gearId)} ` : ''}${VERBS[kind]} ${name(whom)}`
        for (const other of onGear.get(whom) ?? []) {
          const trouble = troubles.get(other.id)!
          if (!mayCause(other) || !ALONG[kind][trouble]?.includes(own)) continue
          // A switch that is not heard may carry all the same; a port that says that it is down does not.
          if (isByWire && trouble !== 'link') continue
          // Both ends of one wire are down: the one that was seen first stands for both.
          if (trouble === 'link' && own === 'link' && !isEarlier(other, alert)) continue
          if (!isOfLink(trouble, other, link, whom)) continue
          // Of a wire between a switch and what hangs on it the switch is the one that carries.
          if (kind === 'wired-to' && trouble === 'dark' && gear.get(whom)?.kind !== 'switch') continue
          return { causeId: other.id, path: words }
        }
        seen.add(end)
        if (gone.has(whom)) continue
        gone.add(whom)
        // What was heard since is alive, and passes nothing on; a strip may answer and feed nothing.
        const isAlive = (gear.get(whom)?.heardAtMs ?? -Infinity) > alert.sinceMs + ALIVE_MS
        // The controller of a chassis may answer for a while after what it feeds has gone.
        const isStarved =
          own === 'off' && kind === 'contains' && isCutOff(own, whom, 'fed-by', { troubles, onGear, needs })
        if (kind === 'fed-by' || isStarved || !isAlive) next.push({ gearId: whom, path: words })
        // A host whose controller answers may have lost its wire all the same.
        else if (kind === 'hosts') next.push({ gearId: whom, path: words, isByWire: true })
      }
    front = next
    if (own === 'heat') break
  }
  if (own !== 'heat') return null
  const warm = { alerts, troubles, gear, mayCause }
  return fromTheRoom(alert, warm) ?? fromBefore(alert, warm)
}

/** For as long as a feed gives nothing, what hangs on it is without power, whenever that is noticed: a battery low for ten minutes may be empty only now. */
const givesNothing = (
  other: CausedAlert,
  troubles: ReadonlyMap<number, TroubleKind>,
  own: TroubleKind,
): boolean => {
  const trouble = troubles.get(other.id)
  return (trouble === 'empty' || trouble === 'power') && own !== 'heat' && own !== 'link'
}

/** Follows each explanation to the one that nothing explains. Two that explain each other are no explanation. */
function toTheFirst(direct: ReadonlyMap<number, Cause>): Map<number, Cause> {
  const causes = new Map<number, Cause>()
  for (const [id, cause] of direct) {
    const seen = new Set([id])
    let last = cause
    for (let next = direct.get(last.causeId); next !== undefined; next = direct.get(last.causeId)) {
      if (seen.has(last.causeId)) break
      seen.add(last.causeId)
      last = { causeId: next.causeId, path: `${last.path}, and ${next.path}` }
    }
    if (!seen.has(last.causeId) && !isInRing(direct, last.causeId)) causes.set(id, last)
  }
  return causes
}

function isInRing(direct: ReadonlyMap<number, Cause>, start: number): boolean {
  const seen = new Set<number>()
  for (let at: number | undefined = start; at !== undefined; at = direct.get(at)?.causeId) {
    if (seen.has(at)) return true
    seen.add(at)
  }
  return false
}
