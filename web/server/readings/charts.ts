import { formatReading, type MeasureKey, measureOf } from '#core/catalogue'
import { commonGaps, type Gap, type Summary, type TimeWindow } from '#core/readings'
import {
  type KeptRule,
  type PlaceNames,
  rulesInForce,
  ruleWords,
  scopeWords,
  type Severity,
} from '#core/rules'
import type { Unit } from '#core/units'
import { type ListedAlert, listAlertsOfGear } from '#db/alerts'
import { listParts, listSeries, type PartRow, type SeriesRow } from '#db/gear'
import type { Db } from '#db/platform'
import { type Drawn, drawings } from '#db/readings'
import { listSubjects, type SubjectRow } from '#db/rules'
import { listClocks } from '#db/sources'
import type { Present } from '../platform/present.ts'
import { placeNames } from '../rules/rules.ts'

/** A rule in force on a curve: where it came from, and what it takes the place of. */
interface RuleOnCurve {
  readonly seriesId: number
  readonly label: string
  readonly id: number
  readonly name: string
  readonly words: string
  readonly scope: string
  readonly isDefault: boolean
  readonly overrides: readonly string[]
}

export interface CurveView {
  readonly seriesId: number
  readonly label: string
  readonly times: Float64Array
  readonly values: Float64Array
  /** Where nothing was heard of it. */
  readonly gaps: readonly Gap[]
  readonly summary: {
    readonly last: string
    readonly min: string
    readonly mean: string
    readonly max: string
  } | null
}

export interface ChartView {
  /** What its curves have in common: the group and unit of their measures. */
  readonly key: string
  readonly title: string
  readonly unit: Unit
  /** The measure that words the numbers of the axis. */
  readonly measure: MeasureKey
  /** Whether every reading was looked at, or summaries of hours. */
  readonly madeOf: 'readings' | 'hours' | 'days'
  readonly curves: readonly CurveView[]
  readonly lines: readonly { readonly value: number; readonly severity: Severity; readonly text: string }[]
  readonly spans: readonly { readonly fromMs: number; readonly toMs: number; readonly severity: Severity }[]
  /** Where nothing was heard of any of its curves. */
  readonly gaps: readonly Gap[]
  readonly rules: readonly RuleOnCurve[]
}

const SHORTEST_GAP_MS = 180_000
const USUAL_MS = 60_000

/** What all charts of a gear are made from. */
interface Around {
  readonly window: TimeWindow
  readonly labelOf: (series: SeriesRow) => string
  readonly rules: readonly KeptRule[]
  readonly subjects: readonly SubjectRow[]
  readonly alerts: readonly ListedAlert[]
  readonly names: PlaceNames
}

/**
 * The curves of some series of one gear in a window, reduced to what a screen can show. What is of one group and one
 * unit shares a chart; a state has a chart of its own.
 * @param known what was listed already of the gear
 */
export async function loadCharts(
  present: Present,
  gearId: number,
  seriesIds: readonly number[],
  { window, pixels }: { readonly window: TimeWindow; readonly pixels: number },
  known?: { readonly parts: readonly PartRow[]; readonly series: readonly SeriesRow[] },
): Promise<ChartView[]> {
  const { db } = present
  const [parts, all] =
    known === undefined
      ? await Promise.all([listParts(db, gearId), listSeries(db, [gearId])])
      : [known.parts, known.series]
  const wanted = seriesIds.flatMap((id) => all.find((each) => each.id === id) ?? [])
  const [drawn, subjects, rules, names, alerts] = await Promise.all([
    drawWanted(db, wanted, { window, pixels }),
    present
      .scopesOf([gearId])
      .then((scopes) => listSubjects(db, { ids: wanted.map(({ id }) => id) }, scopes)),
    present.rules(),
    present.rules().then((all) =>
      placeNames(
        db,
        all.map(({ rule }) => rule.scope.where),
      ),
    ),
    listAlertsOfGear(db, gearId, new Date(window.fromMs), new Date(window.toMs)),
  ])
  const labelOf = labelled(parts, wanted)
  const around: Around = { window, labelOf, rules, subjects, alerts, names }
  const curves = wanted.map((series, index) => ({ series, drawn: drawn[index]! }))
  const keys = [...new Set(wanted.map((each) => chartKey(each.measure)))]
  return keys.map((key) =>
    chartOf(
      key,
      curves.filter(({ series }) => chartKey(series.measure) === key),
      around,
    ),
  )
}

/** The curves of some series, with gaps as long as their sources leave none. */
async function drawWanted(
  db: Db,
  wanted: readonly SeriesRow[],
  { window, pixels }: { readonly window: TimeWindow; readonly pixels: number },
): Promise<Drawn[]> {
  const clocks = await listClocks(db, [...new Set(wanted.map(({ sourceId }) => sourceId))])
  const intervals = new Map(clocks.map(({ id, intervalMs }) => [id, intervalMs]))
  return drawings(
    db,
    wanted.map(({ id, sourceId }) => ({ id, longestGapMs: longestGapOf(intervals.get(sourceId)) })),
    { ...window, pixels },
  )
}

/** A curve is called by its part; where several measures share a chart, by its measure too. */
function labelled(parts: readonly PartRow[], wanted: readonly SeriesRow[]): (series: SeriesRow) => string {
  const names = new Map(parts.map(({ id, name }) => [id, name]))
  const measures = new Map<string, Set<MeasureKey>>()
  for (const { measure } of wanted)
    measures.set(chartKey(measure), (measures.get(chartKey(measure)) ?? new Set()).add(measure))
  return ({ partId, measure }) => {
    const part = partId === null ? undefined : names.get(partId)
    const { label } = measureOf(measure)
    if (part === undefined) return label
    return measures.get(chartKey(measure))?.size === 1 ? part : `${part}, ${label.toLowerCase()}`
  }
}

const longestGapOf = (intervalMs = USUAL_MS): number => Math.max(3 * intervalMs, SHORTEST_GAP_MS)

interface DrawnSeries {
  readonly series: SeriesRow
  readonly drawn: Drawn
}

function chartOf(key: string, all: readonly DrawnSeries[], around: Around): ChartView {
  const { window, labelOf, rules, subjects, alerts } = around
  const series = all.map((each) => each.series)
  const first = series[0]!
  const { label, group, unit } = measureOf(first.measure)
  const ids = new Set(series.map(({ id }) => id))
  return {
    key,
    title: new Set(series.map(({ measure }) => measure)).size === 1 ? label : group,
    unit,
    measure: first.measure,
    madeOf: all[0]!.drawn.from,
    curves: all.map((each) => curveView(each.series, labelOf(each.series), each.drawn)),
    lines: linesOf(
      rules,
      subjects.filter(({ id }) => ids.has(id)),
    ),
    spans: alerts
      .filter(({ seriesId }) => seriesId !== null && ids.has(seriesId))
      .map(({ sinceAt, clearedAt, severity }) => ({
        fromMs: Math.max(window.fromMs, sinceAt.getTime()),
        toMs: clearedAt?.getTime() ?? window.toMs,
        severity,
      })),
    gaps: commonGaps(all.map(({ drawn }) => drawn.gaps)),
    rules: series.flatMap((each) => rulesOn(each, around)),
  }
}

const curveView = ({ id, measure }: SeriesRow, label: string, drawn: Drawn): CurveView => ({
  seriesId: id,
  label,
  // Copies, for a view would travel with all that it is a view of.
  times: drawn.curve.times.slice(),
  values: drawn.curve.values.slice(),
  gaps: drawn.gaps,
  summary: inWords(measure, drawn.summary),
})

function rulesOn(series: SeriesRow, { subjects, rules, names, labelOf }: Around): RuleOnCurve[] {
  const subject = subjects.find(({ id }) => id === series.id)
  if (subject === undefined) return []
  return rulesInForce(rules, subject).map(({ kept, overrides }) => ({
    seriesId: series.id,
    label: labelOf(series),
    id: kept.id,
    name: kept.rule.name,
    words: ruleWords(kept.rule),
    scope: scopeWords(kept.rule.scope, names),
    isDefault: kept.isDefault,
    overrides: overrides.map((other) => other.rule.name),
  }))
}

function chartKey(key: MeasureKey): string {
  const { group, unit, kind } = measureOf(key)
  return kind === 'state' ? key : `${group} ${unit}`
}

function inWords(measure: SeriesRow['measure'], summary: Summary | null): CurveView['summary'] {
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
