import {
  formatReading,
  type GearKind,
  isMeasureKey,
  type MeasureKey,
  measureOf,
  type PartKind,
} from '../catalogue/index.ts'
import { alertTitle, standingWords, lineOf, type Rule, type Severity } from '../rules/index.ts'
import { placeLabel } from '../site/index.ts'
import { formatClock } from '../units/index.ts'
import type { Foldable, Folded } from './fold.ts'

/** An open alert as it is listed. */
export interface OpenAlert extends Foldable {
  readonly seriesId: number | null
  readonly ruleKey: string
  readonly subject: string
  readonly title: string
  readonly reason: string
  /** The reading that it was last told with, and the line that it is beyond, in words. */
  readonly value: number | null
  readonly line: string | null
  readonly sinceMs: number
  readonly takenBy: string | null
  readonly quietId: number | null
  readonly causePath: string | null
  readonly consequence: string | null
  readonly flaps: number
  readonly gearName: string | null
  readonly gearKind: GearKind | null
  readonly partName: string | null
  readonly partKind?: PartKind | null
  readonly rackName: string | null
  readonly unit: number | null
  readonly heightUnits: number | null
  readonly onName: string | null
  /** The room of what stands in no rack. */
  readonly floorName?: string | null
}

/** A message about an alert, as far as a row says what became of it. */
export interface RowMessage {
  readonly team: string
  readonly event: string
  readonly isSent: boolean
  readonly isFailed: boolean
  readonly attempts: number
  readonly dueMs: number
  /** Why nobody was notified by it. */
  readonly skipped: string | null
}

export interface TinyCurve {
  readonly points: readonly (readonly [atMs: number, value: number])[]
  readonly line: number | null
}

export interface AlertRow {
  readonly id: number
  readonly state: 'critical' | 'warning' | 'noData' | 'quiet'
  readonly title: string
  readonly reason: string
  readonly place: string | null
  readonly href: string
  readonly openedAtMs: number
  readonly sinceMs: number
  readonly takenBy: string | null
  /** Who was notified, in words. */
  readonly notified: string
  readonly folded: readonly { readonly id: number; readonly title: string; readonly reason: string }[]
  readonly followOns: readonly { readonly id: number; readonly title: string; readonly path: string }[]
  /** What it means for others. */
  readonly consequence: string
  /** How often it came and went; 0 of what does not flap. */
  readonly flaps: number
  readonly curve: TinyCurve | null
  /** By which rule, of what; the same of rows that are alike. */
  readonly kind: string
}

/** What a row is made from beside its alerts. */
export interface RowFacts {
  /** The newest value of its series, and of others of the same part by measure. */
  readonly value: number | null
  readonly companions: Readonly<Partial<Record<MeasureKey, number>>>
  /** Of an alert about a source: that it is silent, and since when. */
  readonly silence: string | null
  readonly messages: readonly RowMessage[]
  /** Whether anybody would be notified at all. */
  readonly hasCallOut: boolean
  readonly nowMs: number
  readonly timeZone: string
  readonly curve: TinyCurve | null
}

/** By which rule, of what: the same of alerts that differ in their gear alone. */
export const alikeKey = ({ ruleKey, measure, partKind, gearKind }: OpenAlert): string =>
  [ruleKey, measure, partKind ?? gearKind].join(' ')

/** One trouble as a row: its title as of now, where it is, who was notified, and what it explains. */
export function alertRow({ lead, folded, followOns }: Folded<OpenAlert>, facts: RowFacts): AlertRow {
  return {
    id: lead.id,
    state: stateOf(lead, followOns),
    title: facts.silence ?? titleNow(lead, facts),
    reason: reasonNow(lead, facts),
    place: placeOf(lead),
    href: hrefOf(lead),
    openedAtMs: lead.openedAtMs,
    sinceMs: lead.sinceMs,
    takenBy: lead.takenBy,
    notified: notifiedWords(facts.messages, facts),
    folded: folded.map(({ id, title, reason }) => ({ id, title, reason })),
    followOns: followOns.map(({ id, title, causePath }) => ({ id, title, path: causePath ?? '' })),
    consequence: lead.consequence ?? '',
    flaps: lead.flaps,
    curve: facts.curve,
    kind: alikeKey(lead),
  }
}

/** A cause is as bad as what follows from it; what is not heard is neither good nor bad, unless much hangs on it. */
function stateOf(
  { quietId, sourceId, severity }: OpenAlert,
  followOns: readonly { readonly severity: Severity }[],
): AlertRow['state'] {
  if (quietId !== null) return 'quiet'
  if (followOns.some((each) => each.severity === 'critical')) return 'critical'
  return sourceId === null || severity === 'critical' ? severity : 'noData'
}

/** What is told of what is forecast: the reading of now says nothing of it. */
const isAhead = (subject: string): boolean => subject.startsWith('ahead ')

/**
 * Where to go: the forecast, the gear with the curve in question, the source, the space of the store; of all else the
 * alert itself.
 */
function hrefOf({ id, gearId, seriesId, sourceId, subject }: OpenAlert): string {
  if (isAhead(subject) && seriesId !== null) return `/ahead/${seriesId}`
  if (gearId !== null) return `/gear/${gearId}${seriesId === null ? '' : `?r=${seriesId}`}`
  if (sourceId !== null) return `/sources#source-${sourceId}`
  return subject === 'store' ? '/settings/space' : `/alerts/${id}`
}

/** The headline with the value as it is now, where there is one; else as it was at the opening. */
function titleNow(alert: OpenAlert, { value, companions }: RowFacts): string {
  const { gearName, gearKind, partName, partKind, measure, title } = alert
  if (isAhead(alert.subject)) return title
  if (value === null || measure === null || !isMeasureKey(measure) || gearKind === null) return title
  return alertTitle({ gearName: gearName ?? '', gearKind, partName, partKind, measure, value, companions })
}

/** The reason with the reading of now beside that of then, where they differ; of a state always, for what stands beside it. */
function reasonNow(alert: OpenAlert, { value, companions, timeZone }: RowFacts): string {
  const { gearName, gearKind, partName, partKind, measure, reason, value: then, line, openedAtMs } = alert
  if (value === null || then === null || measure === null || !isMeasureKey(measure) || gearKind === null)
    return reason
  const isState = measureOf(measure).kind === 'state'
  if (!isState && formatReading(measure, value) === formatReading(measure, then)) return reason
  const about = { gearName: gearName ?? '', gearKind, partName, partKind, measure, value, companions }
  return standingWords(about, { value: then, clock: formatClock(openedAtMs, timeZone) }, line)
}

/** Where the gear of an alert is: in its rack, without the room; what stands in none in its room. */
export function placeOf(
  alert: Pick<OpenAlert, 'unit' | 'heightUnits' | 'rackName' | 'onName' | 'floorName'>,
): string | null {
  const { unit, heightUnits, rackName, onName, floorName } = alert
  const position = unit === null || heightUnits === null ? null : { unit, heightUnits }
  return placeLabel({
    room: rackName === null ? (floorName ?? null) : null,
    rack: rackName,
    position,
    onName,
  })
}

/** Who was notified, each once, and what has not come through. */
export function notifiedWords(
  messages: readonly RowMessage[],
  { hasCallOut, nowMs }: { readonly hasCallOut: boolean; readonly nowMs: number },
): string {
  const meant = messages.filter(({ skipped, event }) => skipped === null && event !== 'cleared')
  const words = meant.flatMap(({ team, isSent, attempts, isFailed, dueMs }) => {
    if (isSent) return [team]
    if (isFailed) return [`${team}, in vain`]
    if (attempts > 0) return [`${team}, not through yet`]
    return dueMs <= nowMs ? [`${team}, on its way`] : []
  })
  if (words.length > 0) return [...new Set(words)].join('; ')
  const [first] = messages
  if (first?.skipped != null) return `nobody, ${first.skipped}`
  return hasCallOut ? 'nobody yet' : 'nobody, there is no call-out'
}

const OUTAGE: MeasureKey = 'ups.output.source'
/** What says most of an outage. */
export const MINUTES_LEFT: MeasureKey = 'ups.battery.minutes_left'

/** Which curve says most of an alert: during an outage the minutes left, and not the step from mains to battery. */
export function tellingSeries(
  { seriesId, gearId, measure }: OpenAlert,
  series: readonly { readonly id: number; readonly gearId: number; readonly measure: MeasureKey }[],
): number | null {
  if (measure !== OUTAGE) return seriesId
  const minutes = series.find((each) => each.gearId === gearId && each.measure === MINUTES_LEFT)
  return minutes?.id ?? seriesId
}

/** The level that the curve of an alert is held against; `null` where there is none. */
export function lineOnCurve(
  { measure, ruleKey, severity }: OpenAlert,
  rules: readonly { readonly rule: Rule }[],
): number | null {
  const key = measure === OUTAGE ? 'ups-runtime' : ruleKey
  const rule = rules.find((kept) => kept.rule.key === key)?.rule
  return rule?.kind === 'level' ? ((lineOf(rule, severity) ?? lineOf(rule, 'critical'))?.at ?? null) : null
}
