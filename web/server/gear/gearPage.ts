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
import type { TimeWindow } from '#core/readings'
import { SEVERITIES } from '#core/rules'
import { failureSentence, silenceSentence } from '#core/sources'
import { type GearState, worstState } from '#core/gear'
import { placeLabel } from '#core/site'
import { type ListedAlert, listAlertsOfGear } from '#db/alerts'
import type { Db } from '#db/platform'
import { findGear, type GearRow, listParts, listSeries, type PartRow, type SeriesRow } from '#db/gear'
import { listLinks } from '#db/links'
import { type LatestReadings, latestReadings } from '#db/readings'
import { listRules } from '#db/rules'
import { listCallOuts } from '#db/callouts'
import { clockOf, listSources } from '#db/sources'
import { textsOf } from '#db/logs'
import { SYSLOG_SEVERITIES } from '#protocols/syslog'
import { alertRows } from '../alerts/alertRows.ts'
import { silentSourceIds, stateOf } from './gearStates.ts'
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
  readonly measure: MeasureKey
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
    measure: series.measure,
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
