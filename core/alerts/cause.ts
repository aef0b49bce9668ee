import {
  GEAR_KINDS,
  type GearKind,
  type LinkKind,
  type MeasureKey,
  type PartKind,
  type SensorRole,
} from '../catalogue/index.ts'
import { SEVERITIES, type Severity } from '../rules/index.ts'
import { needOf } from '../links/index.ts'

/** An open alert as it is looked at for what explains it. */
export interface CausedAlert {
  readonly id: number
  readonly measure: MeasureKey | null
  readonly ruleKey: string
  /** The gear that it is about; of a silent source, or a collector gone blind, all that it tells of. */
  readonly gearIds: readonly number[]
  readonly partId: number | null
  readonly partKind: PartKind | null
  readonly severity?: Severity
  /** Where it measures, of a part. */
  readonly role?: SensorRole | null
  readonly sourceId: number | null
  readonly isBlind: boolean
  /** Of what is pushed: that comes to a collector, too. */
  readonly isOfPushes?: boolean
  /** Of a collector gone blind: the sources that it does not hear. */
  readonly sourceIds: readonly number[]
  /** The reading that it is about, as it is now. */
  readonly value: number | null
  readonly openedAtMs: number
  readonly sinceMs: number
  /** When it ended, of what was over a moment ago: it explains what began in it and is noticed only now. */
  readonly endedAtMs?: number | null
}

export interface CauseGear {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly roomId: number | null
  /** The rack that it stands in, or hangs before. */
  readonly rackId?: number | null
  /** Of what hangs at a rack: which of its air it measures. */
  readonly role?: SensorRole | null
  /** When any source told of it last; absent of what no source tells of. */
  readonly heardAtMs?: number | null
}

export interface CauseLink {
  readonly kind: LinkKind
  readonly fromGearId: number
  readonly toGearId: number
  readonly fromPartId: number | null
  readonly toPartId: number | null
}

export interface Cause {
  readonly causeId: number
  /** How one leads to the other, in words: «recorder is wired to reef-2». */
  readonly path: string
}

/**
 * What kind of trouble an alert is, as far as one can bring about another.
 * dark: nothing is heard of a gear, or it is not reached. off: it is switched off, or without power. power: it feeds nothing any more. battery: it feeds from its battery. draining: what follows
 * from running on a battery. empty: that battery gives nothing any more. supply: a supply without power. link: a port without a link. cooling: a cooling unit that
 * does not cool. heat: warm air, and what air warms. blind: the collector hears many no more.
 */
export type TroubleKind =
  | 'dark'
  | 'empty'
  | 'off'
  | 'power'
  | 'battery'
  | 'draining'
  | 'supply'
  | 'link'
  | 'cooling'
  | 'heat'
  | 'blind'
  | 'other'

/** What tells that the battery of a UPS runs down, or what its card makes of that. */
const DRAINING: ReadonlySet<MeasureKey> = new Set([
  'ups.battery.status',
  'ups.battery.minutes_left',
  'hw.battery.charge',
  'ups.faults',
])

export function troubleOf(alert: CausedAlert, kind: GearKind | null): TroubleKind {
  if (alert.isBlind) return 'blind'
  if (alert.sourceId !== null && alert.measure === null) return 'dark'
  if (alert.measure !== null && DRAINING.has(alert.measure)) {
    if (kind !== 'ups') return 'other'
    // RFC 1628 upsBatteryStatus: batteryDepleted(4).
    return alert.measure === 'ups.battery.status' && alert.value === 4 ? 'empty' : 'draining'
  }
  switch (alert.measure) {
    case 'net.reachable':
      return 'dark'
    case 'hw.power.state':
      return alert.value === 0 ? 'off' : 'other'
    case 'hw.outlet.state':
      return 'power'
    case 'ups.output.source':
      // RFC 1628 upsOutputSource: none(2), battery(5). Of an outage that is over nobody knows any more how far it came.
      return alert.value === 2 || alert.endedAtMs != null ? 'power' : 'battery'
    case 'hw.network.up':
      return 'link'
    case 'hw.errors':
      return kind === 'cooling' ? 'cooling' : 'other'
    case 'hw.temperature':
      return 'heat'
    case 'hw.fan.speed':
    case 'hw.fan.speed_ratio':
      return kind === 'cooling' ? 'cooling' : 'other'
    case 'hw.status':
      // Redfish Status.Health of a strip as a whole: failed, it feeds nothing.
      if (kind === 'pdu' && alert.partId === null) return alert.value === 2 ? 'power' : 'other'
      return alert.partKind === 'supply' ? 'supply' : kind === 'cooling' ? 'cooling' : 'other'
    default:
      return 'other'
  }
}

/**
 * Whether an alert is the next word on another of the same gear, and no trouble of its own: a battery runs down while its
 * UPS is on it.
 */
export const isNextWord = (alert: CausedAlert, kind: GearKind | null): boolean =>
  troubleOf(alert, kind) === 'draining' || troubleOf(alert, kind) === 'empty'

/** Whether the second source of a box makes its silence worse: then the first, which stands for both, is as bad. */
export const isSilentAltogether = (
  alert: Pick<CausedAlert, 'sourceId' | 'measure'> & { readonly severity: Severity },
  cause: Pick<CausedAlert, 'sourceId' | 'measure'> & { readonly severity: Severity },
): boolean =>
  [alert, cause].every(({ sourceId, measure }) => sourceId !== null && measure === null) &&
  alert.severity === 'critical' &&
  cause.severity === 'warning'

/** Whether a measure is one whose trouble may be such a next word. */
export const isNextWordMeasure = (measure: MeasureKey): boolean => DRAINING.has(measure)

/** Troubles that a trouble of the same gear brings along. */
const HERE: Readonly<Partial<Record<TroubleKind, readonly TroubleKind[]>>> = {
  power: ['draining', 'empty'],
  battery: ['draining', 'empty'],
  off: ['dark', 'link', 'supply'],
}
/** Troubles of who needs a gear, by the link between them. */
const ALONG: Readonly<Record<LinkKind, Readonly<Partial<Record<TroubleKind, readonly TroubleKind[]>>>>> = {
  'fed-by': {
    power: ['supply', 'dark', 'link', 'off', 'power'],
    empty: ['supply', 'dark', 'link', 'off', 'power'],
    dark: ['supply', 'dark', 'link', 'power'],
  },
  hosts: { dark: ['dark'], off: ['dark', 'off'] },
  contains: { dark: ['dark'], power: ['dark', 'off'], off: ['dark', 'off'] },
  'stores-on': { dark: ['dark'], off: ['dark'] },
  'wired-to': { link: ['dark', 'link'], dark: ['dark', 'link'], off: ['dark', 'link'] },
  'cooled-by': { cooling: ['heat'], dark: ['heat'], power: ['heat'] },
}
const VERBS: Readonly<Record<LinkKind, string>> = {
  'fed-by': 'is fed by',
  hosts: 'runs on',
  contains: 'sits in',
  'stores-on': 'stores on',
  'wired-to': 'is wired to',
  'cooled-by': 'is cooled by',
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
  heat: 2 * 3_600_000,
}
/** Air is read at many places, and each has its own persistence. */
const AIR_LATER_MS = 30 * 60_000
/** Of what is over a moment ago its last minutes count. */
const OVER_MS = 15 * 60_000
/** What is stored elsewhere stops with its store; a camera goes on without its recorder. */
const NEEDS_ITS_STORE: ReadonlySet<GearKind> = new Set(['machine', 'host', 'server', 'store', 'volume'])
/** Heard so much after a trouble began, a gear was alive in it: sources are asked at their own pace. */
const ALIVE_MS = 15_000
/** No farther than this many links away. */
const MOST_STEPS = 5

interface Step {
  readonly gearId: number
  readonly kind: LinkKind
  readonly link: CauseLink
}

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

interface Around {
  readonly alerts: readonly CausedAlert[]
  readonly troubles: ReadonlyMap<number, TroubleKind>
  readonly onGear: ReadonlyMap<number, readonly CausedAlert[]>
  readonly needs: ReadonlyMap<number, readonly Step[]>
  readonly gear: ReadonlyMap<number, CauseGear>
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
        if (kind === 'fed-by' || !isAlive) next.push({ gearId: whom, path: words })
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
function signOf(
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
function blindToo(alert: CausedAlert, alerts: readonly CausedAlert[]): Cause | null {
  if (alert.isOfPushes !== true) return null
  const other = alerts.find(
    ({ isBlind, isOfPushes, sinceMs, endedAtMs }) =>
      isBlind && isOfPushes !== true && endedAtMs == null && Math.abs(sinceMs - alert.sinceMs) <= SIGN_MS,
  )
  return other === undefined ? null : { causeId: other.id, path: 'what is pushed comes to a collector, too' }
}

/** An outlet goes off with its strip, when that says of itself as a whole that it has failed. */
const isOutletOfStrip = (
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
function isSameSilence(alert: CausedAlert, other: CausedAlert): boolean {
  if (alert.sourceId === null || other.sourceId === null) return false
  if (alert.measure !== null || other.measure !== null || !isEarlier(other, alert)) return false
  const isPartOf = (a: CausedAlert, b: CausedAlert): boolean =>
    a.gearIds.every((id) => b.gearIds.includes(id))
  return isPartOf(alert, other) || isPartOf(other, alert)
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

/** Of two feeds, or two wires, one carries all. A supply, or a port, has its own one only. */
const isShared = (own: TroubleKind, kind: LinkKind): boolean =>
  kind === 'fed-by'
    ? own === 'dark' || own === 'off' || own === 'link'
    : kind === 'wired-to' && (own === 'dark' || own === 'off')

/** Whether a gear gets nothing along links of a kind any more: each way ends at a trouble, or at gear that gets nothing itself. */
function isCutOff(
  own: TroubleKind,
  gearId: number,
  kind: LinkKind,
  around: Pick<Around, 'troubles' | 'onGear' | 'needs'>,
  seen: ReadonlySet<number> = new Set([gearId]),
): boolean {
  const { troubles, onGear, needs } = around
  const ways = (needs.get(gearId) ?? []).filter((way) => way.kind === kind)
  return (
    ways.length > 0 &&
    ways.every(({ gearId: whom, link }) => {
      const ends = (onGear.get(whom) ?? []).some((alert) => {
        const trouble = troubles.get(alert.id)!
        return ALONG[kind][trouble]?.includes(own) === true && isOfLink(trouble, alert, link, whom)
      })
      if (ends) return true
      return !seen.has(whom) && isCutOff(own, whom, kind, around, new Set([...seen, whom]))
    })
  )
}

const isEarlier = (a: CausedAlert, b: CausedAlert): boolean =>
  a.sinceMs === b.sinceMs ? a.id < b.id : a.sinceMs < b.sinceMs

/** Whether a trouble can have come along a link of a kind. A supply hangs on its own feed alone. */
function isWay(
  own: TroubleKind,
  kind: LinkKind,
  alert: CausedAlert,
  gearId: number,
  link: CauseLink,
): boolean {
  switch (own) {
    case 'heat':
      return kind === 'cooled-by'
    case 'supply':
      return (
        kind === 'fed-by' &&
        (!alert.gearIds.includes(gearId) || link.fromPartId === null || link.fromPartId === alert.partId)
      )
    case 'link':
      return (
        kind === 'fed-by' ||
        (kind === 'wired-to' &&
          (!alert.gearIds.includes(gearId) || [link.fromPartId, link.toPartId].includes(alert.partId)))
      )
    case 'dark':
      return kind !== 'cooled-by'
    case 'power':
      return kind === 'fed-by'
    case 'off':
      return kind === 'fed-by' || kind === 'contains' || kind === 'hosts'
    default:
      return false
  }
}

const endAt = ({ toGearId, toPartId, fromPartId }: CauseLink, gearId: number): number | null =>
  toGearId === gearId ? toPartId : fromPartId

/** A port, or an outlet, is the cause only of what hangs on it. */
function isOfLink(trouble: TroubleKind, cause: CausedAlert, link: CauseLink, whom: number): boolean {
  if (cause.partId === null || (trouble !== 'link' && trouble !== 'power')) return true
  const end = endAt(link, whom)
  return end === null ? trouble === 'power' : end === cause.partId
}

/** What a trouble may come from is asked about before it is told: so far up, along links of these kinds. */
const ASKED_STEPS = 2
const ASKED_ALONG: Readonly<Partial<Record<TroubleKind, readonly LinkKind[]>>> = {
  dark: ['fed-by', 'wired-to', 'hosts', 'contains'],
  off: ['fed-by', 'contains', 'hosts'],
  supply: ['fed-by'],
  power: ['fed-by'],
  link: ['wired-to', 'fed-by'],
}

/** Gear that an alert may follow from, and of which it would be good to know how it is now. */
export function askedAbout(
  alert: CausedAlert,
  gear: ReadonlyMap<number, CauseGear>,
  links: readonly CauseLink[],
): number[] {
  const along = ASKED_ALONG[troubleOf(alert, gear.get(alert.gearIds[0] ?? -1)?.kind ?? null)] ?? []
  if (along.length === 0 || alert.gearIds.length > 4) return []
  const found = new Set<number>(alert.gearIds)
  let front = [...alert.gearIds]
  for (let step = 0; step < ASKED_STEPS; step += 1) {
    const ends = links.flatMap((link) => {
      if (!along.includes(link.kind)) return []
      const { who, whom } = needOf({ kind: link.kind, fromId: link.fromGearId, toId: link.toGearId })
      return front.includes(who) ? [whom] : []
    })
    front = ends.filter((id) => !found.has(id))
    front.forEach((id) => found.add(id))
  }
  alert.gearIds.forEach((id) => found.delete(id))
  return [...found]
}

/** Warm air where no link says what cools it: a cooling unit of the same room. */
function fromTheRoom(
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
function fromBefore(
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

export interface FollowOn {
  readonly title: string
  readonly kind: GearKind | null
  readonly gearName: string | null
}

/** What an alert brings along: «It explains 3 more: 2 servers and 1 camera.» Empty when nothing. */
export function followOnWords(following: readonly FollowOn[]): string {
  if (following.length === 0) return ''
  const counts = new Map<GearKind, Set<string>>()
  for (const { kind, gearName } of following)
    if (kind !== null && gearName !== null) counts.set(kind, (counts.get(kind) ?? new Set()).add(gearName))
  const words = [...counts].map(([kind, names]) =>
    names.size === 1 ? [...names][0]! : `${names.size} ${GEAR_KINDS[kind].plural}`,
  )
  const on = words.length === 0 ? '' : `, on ${words.slice(0, 4).join(', ')}`
  return `It explains ${following.length} more alert${following.length === 1 ? '' : 's'}${on}.`
}

/** What hangs on power for itself; strips and probes only carry it on, or have a battery. */
const FED: ReadonlySet<GearKind> = new Set([
  'server',
  'host',
  'chassis',
  'array',
  'switch',
  'recorder',
  'camera',
  'cooling',
])

/** Gear that is fed, over any number of strips, by this UPS and by no other. In order of names. */
export function fedOnlyBy(
  upsId: number,
  gear: ReadonlyMap<number, CauseGear>,
  links: readonly CauseLink[],
): CauseGear[] {
  const feeds = new Map<number, number[]>()
  for (const { kind, fromGearId, toGearId } of links)
    if (kind === 'fed-by') feeds.set(fromGearId, [...(feeds.get(fromGearId) ?? []), toGearId])
  const sourcesOf = (id: number, seen: ReadonlySet<number>): number[] => {
    if (gear.get(id)?.kind === 'ups') return [id]
    return (feeds.get(id) ?? []).flatMap((next) =>
      seen.has(next) ? [] : sourcesOf(next, new Set([...seen, next])),
    )
  }
  return [...gear.values()]
    .filter(({ id, kind }) => {
      if (!FED.has(kind) || !feeds.has(id)) return false
      const sources = new Set((feeds.get(id) ?? []).flatMap((next) => sourcesOf(next, new Set([id, next]))))
      return sources.size === 1 && sources.has(upsId)
    })
    .sort((a, b) => a.name.localeCompare(b.name))
}
