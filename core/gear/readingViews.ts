import {
  formatReading,
  MEASURE_GROUPS,
  type MeasureKey,
  measureOf,
  type PartKind,
  partKindOf,
} from '../catalogue/index.ts'
import { SEVERITIES, type Severity } from '../rules/index.ts'
import { type GearState, worstState } from './state.ts'

export interface PartView {
  readonly id: number
  readonly kind: PartKind
  readonly name: string
  readonly state: GearState
  /** The one value that says most about a part of its kind, in words. */
  readonly text: string
  readonly seriesIds: readonly number[]
}

export interface ReadingView {
  readonly seriesId: number
  readonly measure: MeasureKey
  readonly label: string
  readonly text: string
  readonly state: GearState
}

/** Of a series, what its view is made from. */
export interface ViewedSeries {
  readonly id: number
  readonly sourceId: number
  readonly partId: number | null
  readonly measure: MeasureKey
}
export interface ViewedPart {
  readonly id: number
  readonly kind: PartKind
  readonly name: string
}

/** What is known of a gear's readings now. */
export interface Around {
  /** The newest value of a series; `null` or nothing where there is none. */
  readonly newest: (seriesId: number) => number | null | undefined
  /** Open alerts of its series. */
  readonly open: readonly {
    readonly seriesId: number | null
    readonly severity: Severity
    readonly isQuiet: boolean
  }[]
  /** Ids of sources that are not heard. */
  readonly silent: ReadonlySet<number>
}

/** A series of a part that its device no longer reports is history, not a reading. */
export const isCurrent = (series: ViewedSeries, parts: readonly ViewedPart[]): boolean =>
  series.partId === null || parts.some((part) => part.id === series.partId)

function stateOfSeries(series: readonly ViewedSeries[], { open, silent }: Around): GearState {
  const severities = open
    .filter((alert) => series.some((each) => each.id === alert.seriesId))
    .map((alert) => (alert.isQuiet ? ('quiet' as const) : alert.severity))
  const isBlind = series.length > 0 && series.every((each) => silent.has(each.sourceId))
  return worstState([...severities, ...(isBlind ? (['noData'] as const) : [])])
}

function valueText(series: ViewedSeries, { newest, silent }: Around): string {
  if (silent.has(series.sourceId)) return 'no data'
  const value = newest(series.id)
  return value == null ? 'no value' : formatReading(series.measure, value)
}

export function partView(part: ViewedPart, all: readonly ViewedSeries[], around: Around): PartView {
  const series = all.filter((each) => each.partId === part.id)
  const telling = partKindOf(part.kind).telling.flatMap(
    (measure) => series.find((each) => each.measure === measure) ?? [],
  )[0]
  const shown = telling ?? series[0]
  return {
    id: part.id,
    kind: part.kind,
    name: part.name,
    state: stateOfSeries(series, around),
    text: shown === undefined ? '' : valueText(shown, around),
    seriesIds: series.map((each) => each.id),
  }
}

export function readingView(series: ViewedSeries, part: ViewedPart | null, around: Around): ReadingView {
  return {
    seriesId: series.id,
    measure: series.measure,
    label: part === null ? measureOf(series.measure).label : part.name,
    text: valueText(series, around),
    state: stateOfSeries([series], around),
  }
}

/** Readings by measure, in the catalogue's order of groups; those of the gear as a whole before those of its parts. Health of parts is in the drawing and not repeated. */
export function readingGroups(all: readonly ViewedSeries[], parts: readonly ViewedPart[], around: Around) {
  return MEASURE_GROUPS.flatMap((name) => {
    const readings = all
      .filter(
        (each) =>
          measureOf(each.measure).group === name && !(each.measure === 'hw.status' && each.partId !== null),
      )
      .sort((a, b) => Number(a.partId !== null) - Number(b.partId !== null))
      .map((each) => {
        const part = parts.find((candidate) => candidate.id === each.partId) ?? null
        const view = readingView(each, part, around)
        const several = new Set(
          all
            .filter((other) => other.partId === each.partId && measureOf(other.measure).group === name)
            .map((other) => other.measure),
        )
        const isPlain = part === null || several.size < 2
        return isPlain
          ? view
          : { ...view, label: `${view.label}, ${measureOf(each.measure).label.toLowerCase()}` }
      })
    return readings.length === 0 ? [] : [{ name, readings }]
  })
}

const MOST_PICKED = 24

/** What the charts show: what the address asks for, else what is in an alert, and what says most about the gear. */
export function pickSeries(
  asked: readonly number[],
  all: readonly ViewedSeries[],
  parts: readonly ViewedPart[],
  open: Around['open'],
): number[] {
  const valid = asked.filter((id) => all.some((each) => each.id === id))
  if (valid.length > 0) return valid.slice(0, MOST_PICKED)
  const alerting = SEVERITIES.flatMap((severity) =>
    all.filter(
      (each) =>
        measureOf(each.measure).kind === 'gauge' &&
        open.some((alert) => alert.seriesId === each.id && alert.severity === severity),
    ),
  )
  const air = parts.filter((part) => part.kind === 'sensor').map((part) => part.id)
  const usual = all.filter(
    (each) =>
      (each.measure === 'hw.temperature' && each.partId !== null && air.includes(each.partId)) ||
      (each.partId === null && USUAL.has(each.measure)),
  )
  return [...new Set([...alerting, ...usual].map((each) => each.id))].slice(0, MOST_PICKED)
}

const USUAL = new Set([
  'system.cpu.utilization',
  'host.cpu.guests',
  'host.cpu.hypervisor',
  'hw.power',
  'ups.battery.minutes_left',
  'ups.output.load',
  'system.filesystem.utilization',
])
