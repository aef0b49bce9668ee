import {
  formatReading,
  GEAR_KINDS,
  gearKindOf,
  isMeasureKey,
  MEASURE_GROUPS,
  type MeasureKey,
  measureOf,
  partKindOf,
  type PartKind,
} from '#core/catalogue'
import type { Summary, TimeWindow } from '#core/readings'
import { type KeptRule, rulesInForce, ruleWords, SEVERITIES, type Severity } from '#core/rules'
import { failureSentence, silenceSentence } from '#core/sources'
import { type GearState, worstState } from '#core/gear'
import { placeLabel } from '#core/site'
import type { Unit } from '#core/units'
import { type ListedAlert, listAlertsOfGear } from '#db/alerts'
import type { Db } from '#db/platform'
import { findGear, type GearRow, listParts, listSeries, type PartRow, type SeriesRow } from '#db/gear'
import { listLinks } from '#db/links'
import { drawing, type LatestReadings, latestReadings } from '#db/readings'
import { listRules, listSubjects, type SubjectRow } from '#db/rules'
import { listCallOuts } from '#db/callouts'
import { clockOf, listSources } from '#db/sources'
import { textsOf } from '#db/logs'
import { SYSLOG_SEVERITIES } from '#protocols/syslog'
import { alertRows } from '../alerts/alertRows.ts'
import { silentSourceIds, stateOf } from './gearStates.ts'
import { partIdsOf, placeNames, scopeWords } from '../rules/rules.ts'
import { descriptorOf } from '#protocols/registry'

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
  readonly label: string
  readonly text: string
  readonly state: GearState
}

/** Of what a gear said so much is shown. */
const MOST_TEXTS = 100

export async function loadGearPage(
  db: Db,
  id: number,
  asked: readonly number[],
  window: TimeWindow,
  nowMs: number,
) {
  const gear = await findGear(db, id)
  if (gear === undefined) return null
  const [parts, links, series, sources, rules, callOuts, alerts, texts] = await Promise.all([
    listParts(db, id),
    listLinks(db, id),
    listSeries(db, [id]),
    listSources(db),
    listRules(db),
    listCallOuts(db),
    listAlertsOfGear(db, id, new Date(nowMs), new Date(nowMs)),
    textsOf(db, id, window, MOST_TEXTS),
  ])
  const latest = await latestReadings(db, gear.sourceIds)
  const silent = silentSourceIds(sources, nowMs)
  const open = alerts.filter((alert) => alert.clearedAt === null)
  const own = sources.filter((source) => gear.sourceIds.includes(source.id))
  const shown = series.filter((each) => isMeasureKey(each.measure) && isCurrent(each, parts))
  const why = await alertRows(db, open, {
    sources,
    rules,
    window,
    nowMs,
    isTold: callOuts.some(({ isOn }) => isOn),
  })
  return {
    gear: headOf(gear, stateOf(gear, silent)),
    why,
    silent: own
      .filter((source) => silent.has(source.id))
      .map((source) => silenceSentence(source.name, clockOf(source), nowMs)),
    parts: parts.map((part) => partView(part, shown, { latest, open, silent })),
    own: shown
      .filter((each) => each.partId === null)
      .map((each) => readingView(each, null, { latest, open, silent })),
    groups: readingGroups(shown, parts, { latest, open, silent }),
    picked: pick(asked, shown, parts, open),
    links,
    texts: texts.map(({ heardAt, severity, ...text }) => ({
      ...text,
      severity,
      atMs: heardAt.getTime(),
      word: SYSLOG_SEVERITIES[severity] ?? String(severity),
    })),
    sources: own.map((source) => ({
      id: source.id,
      name: source.name,
      isPolled: descriptorOf(source.protocol).isPolled,
      isSilent: silent.has(source.id),
      heardMs: source.lastHeardAt?.getTime() ?? null,
      trouble: source.failure === null ? null : failureSentence(source.failure),
    })),
    nowMs,
  }
}

interface Around {
  readonly latest: LatestReadings
  readonly open: readonly ListedAlert[]
  readonly silent: ReadonlySet<number>
}

function headOf(gear: GearRow, state: GearState) {
  const { id, name, kind, facts, unit, heightUnits } = gear
  const position = unit === null || heightUnits === null ? null : { unit, heightUnits }
  const cluster = facts['cluster']
  return {
    id,
    name,
    kind,
    drawing: gearKindOf(kind).drawing,
    state,
    facts,
    role:
      kind === 'server' && cluster !== undefined
        ? `server, hypervisor host of cluster ${cluster}`
        : GEAR_KINDS[kind].label,
    place: placeLabel({ room: gear.roomName, rack: gear.rackName, position, onName: gear.onName }),
    sourceIds: gear.sourceIds,
    tags: gear.tags,
    rackId: gear.rackId,
    unit,
    heightUnits,
  }
}

/** A series of a part that its device no longer reports is history, not a reading. */
const isCurrent = (series: SeriesRow, parts: readonly PartRow[]): boolean =>
  series.partId === null || parts.some((part) => part.id === series.partId)

function stateOfSeries(series: readonly SeriesRow[], { open, silent }: Around): GearState {
  const severities = open
    .filter((alert) => series.some((each) => each.id === alert.seriesId))
    .map((alert) => (alert.quietId === null ? alert.severity : ('quiet' as const)))
  const isBlind = series.length > 0 && series.every((each) => silent.has(each.sourceId))
  return worstState([...severities, ...(isBlind ? (['noData'] as const) : [])])
}

function valueText(series: SeriesRow, { latest, silent }: Around): string {
  if (silent.has(series.sourceId)) return 'no data'
  const value = latest.get(series.id)?.value
  return value == null ? 'no value' : formatReading(series.measure, value)
}

function partView(part: PartRow, all: readonly SeriesRow[], around: Around): PartView {
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

function readingView(series: SeriesRow, part: PartRow | null, around: Around): ReadingView {
  return {
    seriesId: series.id,
    label: part === null ? measureOf(series.measure).label : part.name,
    text: valueText(series, around),
    state: stateOfSeries([series], around),
  }
}

/** Readings by measure, in the catalogue's order of groups. Health of parts is in the drawing and not repeated. */
function readingGroups(all: readonly SeriesRow[], parts: readonly PartRow[], around: Around) {
  return MEASURE_GROUPS.flatMap((name) => {
    const readings = all
      .filter(
        (each) =>
          measureOf(each.measure).group === name && !(each.measure === 'hw.status' && each.partId !== null),
      )
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
function pick(
  asked: readonly number[],
  all: readonly SeriesRow[],
  parts: readonly PartRow[],
  open: readonly ListedAlert[],
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

export interface ChartView {
  /** What its curves have in common: the group and unit of their measures. */
  readonly key: string
  readonly title: string
  readonly unit: Unit
  /** The measure that words the numbers of the axis. */
  readonly measure: MeasureKey
  /** Whether every reading was looked at, or summaries of hours. */
  readonly madeOf: 'readings' | 'hours' | 'days'
  readonly curves: readonly {
    readonly seriesId: number
    readonly label: string
    readonly times: readonly number[]
    readonly values: readonly number[]
    readonly summary: {
      readonly last: string
      readonly min: string
      readonly mean: string
      readonly max: string
    } | null
  }[]
  readonly lines: readonly { readonly value: number; readonly severity: Severity; readonly text: string }[]
  readonly spans: readonly { readonly fromMs: number; readonly toMs: number; readonly severity: Severity }[]
  readonly gaps: readonly { readonly fromMs: number; readonly toMs: number }[]
  /** The rules in force on each curve: where each came from, and what it takes the place of. */
  readonly rules: readonly {
    readonly seriesId: number
    readonly label: string
    readonly id: number
    readonly name: string
    readonly words: string
    readonly scope: string
    readonly isDefault: boolean
    readonly overrides: readonly string[]
  }[]
}

const SHORTEST_GAP_MS = 180_000

/**
 * The curves of some series of one gear in a window, reduced to what a screen can show. What is of one group and one
 * unit shares a chart; a state has a chart of its own.
 */
export async function loadCharts(
  db: Db,
  gearId: number,
  seriesIds: readonly number[],
  window: TimeWindow,
  pixels: number,
): Promise<ChartView[]> {
  const [gear, parts, all, rules, subjects, sources, alerts] = await Promise.all([
    findGear(db, gearId),
    listParts(db, gearId),
    listSeries(db, [gearId]),
    listRules(db),
    listSubjects(db, { gearIds: [gearId] }),
    listSources(db),
    listAlertsOfGear(db, gearId, new Date(window.fromMs), new Date(window.toMs)),
  ])
  if (gear === undefined) return []
  const names = await placeNames(db, undefined, partIdsOf(rules))
  const wanted = seriesIds.flatMap((id) => all.find((each) => each.id === id) ?? [])
  const keys = [...new Set(wanted.map((each) => chartKey(each.measure)))]
  return Promise.all(
    keys.map(async (key) => {
      const own = wanted.filter((each) => chartKey(each.measure) === key)
      const first = own[0]!
      const measures = new Set(own.map((each) => each.measure))
      const partOf = (each: SeriesRow) => parts.find((part) => part.id === each.partId)
      const interval = sources.find((source) => source.id === first.sourceId)?.intervalSeconds ?? 60
      const longestGapMs = Math.max(3 * interval * 1000, SHORTEST_GAP_MS)
      const drawn = await Promise.all(
        own.map((each) => drawing(db, each.id, { ...window, pixels, longestGapMs })),
      )
      return {
        key,
        title: measures.size === 1 ? measureOf(first.measure).label : measureOf(first.measure).group,
        unit: measureOf(first.measure).unit,
        measure: first.measure,
        madeOf: drawn[0]!.from,
        curves: own.map((each, index) => ({
          seriesId: each.id,
          label: partOf(each)?.name ?? measureOf(each.measure).label,
          times: Array.from(drawn[index]!.curve.times),
          values: Array.from(drawn[index]!.curve.values),
          summary: inWords(each.measure, drawn[index]!.summary),
        })),
        lines: linesOf(
          rules,
          subjects.filter((subject) => own.some(({ id }) => id === subject.id)),
        ),
        spans: alerts
          .filter((alert) => own.some((each) => each.id === alert.seriesId))
          .map((alert) => ({
            fromMs: Math.max(window.fromMs, alert.sinceAt.getTime()),
            toMs: alert.clearedAt?.getTime() ?? window.toMs,
            severity: alert.severity,
          })),
        gaps: drawn[0]!.gaps,
        rules: own.flatMap((each) => {
          const subject = subjects.find(({ id }) => id === each.id)
          return subject === undefined
            ? []
            : rulesInForce(rules, subject).map(({ kept, overrides }) => ({
                seriesId: each.id,
                label: partOf(each)?.name ?? measureOf(each.measure).label,
                id: kept.id,
                name: kept.rule.name,
                words: ruleWords(kept.rule),
                scope: scopeWords(kept.rule.scope, names),
                isDefault: kept.isDefault,
                overrides: overrides.map((other) => other.rule.name),
              }))
        }),
      }
    }),
  )
}

function chartKey(key: MeasureKey): string {
  const { group, unit, kind } = measureOf(key)
  return kind === 'state' ? key : `${group} ${unit}`
}

function inWords(
  measure: SeriesRow['measure'],
  summary: Summary | null,
): ChartView['curves'][number]['summary'] {
  if (summary === null) return null
  const say = (value: number): string => formatReading(measure, value)
  const mean = measureOf(measure).kind === 'state' ? '' : say(summary.mean)
  return { last: say(summary.last), min: say(summary.min), mean, max: say(summary.max) }
}

/** The lines in force on any of a chart's series, each once. */
function linesOf(rules: readonly KeptRule[], subjects: readonly SubjectRow[]): ChartView['lines'] {
  const lines = subjects.flatMap((subject) =>
    rulesInForce(rules, subject).flatMap(({ kept: { rule } }): ChartView['lines'] => {
      const say = (value: number): string => formatReading(subject.measure, value)
      if (rule.kind === 'level' && rule.of.with === null)
        return rule.lines.map(({ severity, at }) => ({
          value: at,
          severity,
          text: `${rule.direction} ${say(at)}`,
        }))
      if (rule.kind === 'band' && rule.of.with === null)
        return rule.bands.flatMap(({ severity, low, high }) => [
          { value: low, severity, text: `below ${say(low)}` },
          { value: high, severity, text: `above ${say(high)}` },
        ])
      return []
    }),
  )
  return [...new Map(lines.map((line) => [`${line.severity} ${line.text}`, line])).values()]
}
