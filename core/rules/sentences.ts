import {
  formatReading,
  type GearKind,
  GEAR_KINDS,
  type MeasureKey,
  measureOf,
  type PartKind,
  partKindOf,
} from '../catalogue/index.ts'
import { formatElapsed } from '../units/index.ts'
import type { Persistence, SeriesRule, Severity } from './rule.ts'
import type { Verdict } from './judge.ts'
import { formatQuantity, lineWords, lower, quantityWords } from './words.ts'

/** What an alert is about, in names. */
export interface AlertFacts {
  readonly gearName: string
  readonly gearKind: GearKind
  readonly partName: string | null
  readonly partKind?: PartKind | null | undefined
  readonly measure: MeasureKey
  readonly value: number
  /** Other readings of the same part, or gear, at the same moment: an outage is told with the minutes left. */
  readonly companions?: Readonly<Partial<Record<MeasureKey, number>>>
}

/** What is wrong and where, as a headline: “Fan 3 stopped in petrel-07”. */
export function alertTitle(about: AlertFacts): string {
  const { gearName, partName, measure, value } = about
  const shown = formatReading(measure, value)
  const inGear = partName === null ? gearName : `${partName} in ${gearName}`
  const kind = GEAR_KINDS[about.gearKind].label
  const noun = about.gearKind === 'ups' ? `UPS ${gearName}` : `${kind} ${gearName}`
  switch (measure) {
    case 'hw.fan.speed':
      return value === 0
        ? `${partName ?? 'Fan'} stopped in ${gearName}`
        : `${partName ?? 'Fan'} at ${shown} in ${gearName}`
    case 'hw.status':
      if (value > 0 && about.companions?.['hw.fan.speed'] === 0)
        return `${partName ?? 'Fan'} stopped in ${gearName}`
      if (value === 0) return `${inGear} is well`
      if (partName === null) return `${gearName} reports itself ${shown}`
      return `${inGear} ${value === 1 ? 'is degraded' : 'has failed'}`
    case 'hw.drive.life_left':
      return `${inGear} has ${shown} of its life left`
    case 'hw.drive.predicted_failure':
      return value === 1 ? `${inGear} predicts its own failure` : `${inGear} predicts no failure`
    case 'hw.power.state':
      return `${noun} is switched ${value === 0 ? 'off' : 'on'}`
    case 'ups.output.source':
      // RFC 1628 upsOutputSource: none(2), battery(5).
      if (value === 2) return `${noun} gives no power`
      return `${noun} on ${shown}${value === 5 ? minutesLeft(about) : ''}`
    case 'ups.battery.minutes_left':
      return `${noun} has ${shown} left`
    case 'ups.battery.status':
      // RFC 1628 upsBatteryStatus: batteryLow(3), batteryDepleted(4).
      return `${noun}: battery ${shown}${value > 2 ? minutesLeft(about) : ''}`
    case 'ups.faults':
      return `${noun} has ${value === 1 ? 'an alarm' : `${value} alarms`} of its own`
    case 'system.filesystem.utilization':
      return partName === null ? `Store ${gearName} at ${shown}` : `${inGear} at ${shown}`
    case 'hw.leak':
      return `${inGear} ${value === 0 ? 'is dry' : `reports a ${shown}`}`
    case 'net.reachable':
      return `${gearName} ${value === 0 ? 'is not reached' : 'is reached'}`
    case 'net.certificate.days_left':
      return value < 0
        ? `The certificate of ${gearName} has expired`
        : `The certificate of ${gearName} runs out in ${shown}`
    default:
      return `${partName === null ? noun : inGear}: ${measureOf(measure).label.toLowerCase()} ${shown}`
  }
}

function minutesLeft({ companions }: AlertFacts): string {
  const minutes = companions?.['ups.battery.minutes_left']
  return minutes === undefined ? '' : `, ${formatReading('ups.battery.minutes_left', minutes)} left`
}

/** Why an alert holds, with the value, the line and how many readings. */
export function alertReason(
  rule: SeriesRule,
  about: AlertFacts,
  verdict: Extract<Verdict, { kind: 'holds' }>,
): string {
  const shown = formatReading(about.measure, about.value)
  const line = lineWords(rule, verdict.severity) || lineWords(rule, 'critical')
  const held = 'persistence' in rule ? heldWords(rule.persistence, verdict) : ''
  const add = held === '' ? '' : `, ${held}`
  switch (rule.kind) {
    case 'state':
      return (
        [`${stateWords(about, about.value)}${heldLong(rule.persistence)}`, ...companionWords(about)].join(
          '; ',
        ) + '.'
      )
    case 'change':
      return `${measureOf(about.measure).label} changed to ${shown}.`
    case 'pair': {
      const other = about.companions?.[rule.second.measure]
      const beside =
        other === undefined
          ? ''
          : ` and ${lower(measureOf(rule.second.measure).label)} ${formatReading(rule.second.measure, other)}`
      return `${measureOf(about.measure).label} ${shown}${beside}: ${line}${add}.`
    }
    case 'rate':
      return `${shown}, ${line}${add}.`
    case 'band':
      return `${shown}, ${line}${add}.`
    case 'level': {
      if (rule.of.with === null)
        return `${shown}, ${rule.direction} the line of ${line.slice(rule.direction.length + 1)}${add}.`
      const other = about.companions?.[rule.of.with.measure]
      const value =
        other === undefined ? null : rule.of.with.how === 'ratio' ? about.value / other : about.value - other
      return `${capital(quantityWords(rule.of))}${value === null ? '' : ` ${formatQuantity(rule.of, value)}`}, ${rule.direction} the line of ${line.slice(rule.direction.length + 1)}${add}.`
    }
  }
}

/** A state as whoever stands before the device would say it: “The device reports this fan failed”. */
function stateWords({ measure, partKind, partName }: AlertFacts, value: number): string {
  const shown = formatReading(measure, value)
  const part =
    partName === null ? 'itself' : `this ${partKind == null ? 'part' : lower(partKindOf(partKind).label)}`
  switch (measure) {
    case 'hw.status':
      return `The device reports ${part} ${shown}`
    case 'hw.drive.predicted_failure':
      return value === 0 ? 'The drive predicts no failure' : 'The drive predicts its own failure'
    case 'hw.leak':
      return value === 0 ? 'It is dry' : `A ${shown} is detected`
    case 'hw.power.state':
      return `It is switched ${shown}`
    case 'ups.output.source':
      // RFC 1628 upsOutputSource: none(2), battery(5).
      return value === 2 ? 'It gives no power' : `It runs on ${shown}`
    case 'ups.battery.status':
      return `The battery is ${shown}`
    case 'net.reachable':
      return `It is ${shown}`
    default:
      return `${measureOf(measure).label} is ${shown}`
  }
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1)

function heldWords(persistence: Persistence, { breaches, of }: Extract<Verdict, { kind: 'holds' }>): string {
  if (persistence.kind === 'duration') return `for ${formatElapsed(persistence.ms)}`
  return persistence.n === 1 ? '' : `in ${breaches} of the last ${of} readings`
}

const heldLong = (persistence: Persistence): string =>
  persistence.kind === 'duration' ? ` for longer than ${formatElapsed(persistence.ms)}` : ''

/** The readings beside a state that make it plain: speed of a failed fan, charge and load of a UPS. */
function companionWords({ measure, companions = {} }: AlertFacts): string[] {
  const beside: readonly MeasureKey[] =
    measure === 'hw.status'
      ? ['hw.fan.speed', 'hw.voltage', 'hw.drive.life_left']
      : measure === 'ups.output.source'
        ? ['hw.battery.charge', 'ups.output.load']
        : []
  return beside.flatMap((key) => {
    const value = companions[key]
    return value === undefined ? [] : [`${measureOf(key).label.toLowerCase()} ${formatReading(key, value)}`]
  })
}

/** How what is wrong stands now, beside how it stood when it was noticed: “0 rpm, was 240 rpm at 12:22; below the line”. */
export function standingWords(
  about: AlertFacts,
  then: { readonly value: number; readonly clock: string } | null,
  line: string | null,
): string {
  const shown = formatReading(about.measure, about.value)
  const was = then === null ? shown : formatReading(about.measure, then.value)
  const past = then === null || was === shown ? '' : `, was ${was} at ${then.clock}`
  const { label, kind } = measureOf(about.measure)
  const isState = kind === 'state'
  const head = isState ? `${stateWords(about, about.value)}${past}` : `${label} ${shown} now${past}`
  return `${[head, ...companionWords(about), ...(isState || line === null ? [] : [`the line: ${line}`])].join('; ')}.`
}

/** The last word on an alert that went away by itself. */
export function clearedReason(about: AlertFacts, openedMs: number, clearedMs: number): string {
  return `Back to ${formatReading(about.measure, about.value)} after ${formatElapsed(clearedMs - openedMs)}.`
}

interface Named {
  readonly gearName: string
  readonly partName: string | null
}

/** A probe that its gateway does not hear, while the gateway is heard. */
export const silentTitle = ({ gearName, partName }: Named, isHeard: boolean): string =>
  `${partName === null ? gearName : `${partName} in ${gearName}`} is ${isHeard ? 'heard again' : 'not heard'}`

export const silentReason = (forMs: number, isHeard: boolean): string =>
  isHeard
    ? `Heard again after ${formatElapsed(forMs)}.`
    : `Its source is heard, and has said nothing of it for ${formatElapsed(forMs)}.`

/** “a”, “a and b”, “a, b and c”; beyond `most` names the rest is a count. */
export function listNames(names: readonly string[], most = 3): string {
  const shown = names.length > most ? [...names.slice(0, most), `${names.length - most} more`] : [...names]
  if (shown.length <= 1) return shown[0] ?? ''
  return `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}`
}

export type { Severity }
