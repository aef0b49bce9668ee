import type { GearKind, MeasureKey, PartKind, SensorRole } from '../catalogue/index.ts'
import type { Severity } from '../rules/index.ts'

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

export interface Cause {
  readonly causeId: number
  /** How one leads to the other, in words: “recorder is wired to reef-2”. */
  readonly path: string
}

/**
 * What kind of trouble an alert is, as far as one can bring about another.
 * dark: nothing is heard of a gear, or it is not reached. off: it is switched off, or without power. power: it feeds nothing any more. battery: it feeds from its battery. draining: what follows
 * from running on a battery. empty: that battery gives nothing any more. supply: a supply without power. link: a port without a link. cooling: a cooling unit that
 * does not cool. still: a fan that stands still or is slow. heat: warm air, and what air warms. blind: the collector hears many no more.
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
  | 'still'
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
      return kind === 'cooling' ? 'cooling' : 'still'
    case 'hw.status':
      // Redfish Status.Health of a strip as a whole: failed, it feeds nothing.
      if (kind === 'pdu' && alert.partId === null) return alert.value === 2 ? 'power' : 'other'
      if (kind === 'cooling') return 'cooling'
      return alert.partKind === 'supply' ? 'supply' : alert.partKind === 'fan' ? 'still' : 'other'
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
