import { measureOf } from '#core/catalogue'
import {
  comparedOf,
  type CurveStatistics,
  EARLIER,
  earlierBy,
  isEarlier,
  isPicked,
  type LineAcross,
  namesApart,
  NO_STATISTICS,
  pastSentence,
  type Pick,
  pickWords,
  type Shows,
  showsOf,
  statisticsOfRow,
  writePick,
} from '#core/past'
import { type Raster, rasterOf, type Summary, type TimeWindow } from '#core/readings'
import { rulesInForce, type Severity } from '#core/rules'
import type { Unit } from '#core/units'
import { alertSpans } from '#db/alerts'
import { drawings, percentiles, rasters } from '#db/readings'
import { listSubjects, type SubjectRow } from '#db/rules'
import { listClocks } from '#db/sources'
import type { Present } from '../platform/present.ts'
import { windowIn } from '../readings/window.ts'
import { besideCurves } from './beside.ts'
import { combined, type Member, nameOf, type Wanted } from './combined.ts'
import { oftenAsked, picksIn, placeWords } from './picks.ts'

/** So many are drawn as curves, each with its own colour. */
export const MOST_CURVES = 12
/** So many series are looked at for one screen. */
export const MOST_SERIES = 600
/** The busiest are found among so many. */
const MOST_COMPARED = 5000
const CURVE_COLUMNS = 500
/** Wide enough for a few curves; of many none can be followed so closely. */
const FEW_CURVES = 6
const PIXELS = { few: 900, many: 320 } as const
const HEAT_COLUMNS = 170
/** Percentiles of so many series over so long are looked up in every reading; of more in sketches. */
const EXACT_SERIES = 12
const EXACT_MS = 7 * 86_400_000
const USUAL_MS = 60_000
const SHORTEST_GAP_MS = 180_000

export interface PastCurve {
  readonly key: string
  readonly name: string
  readonly gearId: number | null
  readonly seriesId: number | null
  /** Its place among the colours; `null` where it is not drawn as a curve. */
  readonly colour: number | null
  readonly panel: string
  readonly shows: Shows
  readonly statistics: CurveStatistics
}

export interface DrawnCurve {
  readonly key: string
  readonly label: string
  readonly colour: number
  readonly isEarlier: boolean
  readonly times: Float64Array
  /** NaN is a gap. */
  readonly values: Float64Array
}

/** What of one unit is drawn on one pair of axes. */
export interface PastPanel {
  readonly key: string
  readonly title: string
  readonly unit: Unit
  readonly shows: Shows
  readonly line: (LineAcross & { readonly severity: Severity }) | null
  readonly curves: readonly DrawnCurve[]
  readonly spans: readonly { readonly fromMs: number; readonly toMs: number; readonly severity: Severity }[]
  /** Means by column, in the order of the table, NaN where nothing was heard; of many series only. */
  readonly heat: {
    readonly keys: readonly string[]
    readonly means: readonly Float32Array[]
  } | null
}

/**
 * What an address asks to look back at.
 * @param columns how many columns of time many series are gathered into at most
 */
export async function loadPast(present: Present, url: URL, columns = HEAT_COLUMNS) {
  const window = windowIn(url, present.nowMs)
  const { timeZone } = await present.site()
  const asked = await whatIsAsked(present, url)
  const { picks } = asked
  const members = await Promise.all(asked.members.map((member) => onlyBusiest(present, member, window)))
  const clocks = await listClocks(present.db, [
    ...new Set(members.flatMap((each) => each.series.map(({ sourceId }) => sourceId))),
  ])
  const intervalMs = new Map(clocks.map(({ id, intervalMs: each }) => [id, each]))
  const slowest = Math.min(600_000, Math.max(USUAL_MS, ...intervalMs.values()))
  const total = members.reduce((sum, { series }) => sum + series.length, 0)
  const isPlain = members.every(({ pick }) => pick === null || isEach(pick))
  const isMany = total > MOST_CURVES || ['heat', 'band'].includes(url.searchParams.get('v') ?? '')
  const raster = rasterOf(window, isMany && isPlain ? columns : CURVE_COLUMNS, 2 * slowest)
  const read = isMany || !isPlain ? await rasters(present.db, seriesOf(members), raster) : null
  const wanted = toldApart(
    read === null
      ? members.flatMap(eachOf)
      : combined(members, { rows: read.rows, raster, names: await namesIn(present) }),
  )
  const view = viewIn(url, wanted.length)
  const under = url.searchParams.get('under')
  const given: Given = {
    present,
    window,
    raster,
    wanted,
    view,
    intervalMs,
    summaries: read?.summaries ?? null,
    under:
      isEarlier(under) && view === 'curves'
        ? { by: under, shiftMs: earlierBy(window.fromMs, under, timeZone) }
        : null,
  }
  const lines = await linesIn(given)
  const [statistics, drawn] = await Promise.all([statisticsOf(given, lines), drawnOf(given)])
  // Of what happened beside the curves something is said where there are few of them.
  const gearIds = view === 'curves' ? wanted.flatMap(({ gearId }) => gearId ?? []) : []
  const [panels, beside] = await Promise.all([
    panelsOf(given, lines, drawn),
    besideCurves(present.db, [...new Set(gearIds)], window),
  ])
  const curves = wanted.map(({ key, name, gearId, series, shows, measure }, index): PastCurve => ({
    key,
    name,
    gearId,
    seriesId: series?.id ?? null,
    colour: view === 'curves' ? index : null,
    panel: panelKey(shows, measure),
    shows,
    statistics: { ...NO_STATISTICS, ...statistics.of.get(key), ...drawn.summaries.get(key) },
  }))
  return {
    window,
    view,
    raster,
    panels,
    ...beside,
    curves,
    often: curves.length === 0 ? await oftenAsked(present) : [],
    percentilesFrom: statistics.from,
    madeOf: read?.from ?? drawn.from,
    under: given.under === null ? null : { by: given.under.by, words: EARLIER[given.under.by] },
    picks: picks.map(({ pick, words, count }) => ({ pick: writePick(pick), words, count })),
    problems: [...asked.problems, ...windowProblems(url, window)],
    sentence: pastSentence(curves.map(({ name, statistics: own, shows }) => ({ name, shows, ...own }))),
  }
}

export type PastView = Awaited<ReturnType<typeof loadPast>>

async function namesIn(present: Present) {
  const named = (all: readonly { readonly id: number; readonly name: string }[]) =>
    new Map(all.map(({ id, name }) => [id, name]))
  const [racks, rooms] = await Promise.all([present.racks(), present.rooms()])
  return { racks: named(racks), rooms: named(rooms) }
}

interface Given {
  readonly present: Present
  readonly window: TimeWindow
  readonly raster: Raster
  readonly wanted: readonly Wanted[]
  readonly view: 'curves' | 'band' | 'heat'
  readonly intervalMs: ReadonlyMap<number, number>
  readonly summaries: ReadonlyMap<number, Summary> | null
  readonly under: { readonly by: keyof typeof EARLIER; readonly shiftMs: number } | null
}

const isEach = ({ together, against, isRate }: Pick): boolean =>
  together === 'each' && against === null && !isRate

const RANKING_COLUMNS = 60

/** Of a member that asks for the busiest only those, the busiest first: by the mean of what was read over the window. */
async function onlyBusiest({ db }: Present, member: Member, window: TimeWindow): Promise<Member> {
  const { pick, series } = member
  if (pick?.busiest == null) return member
  const { summaries } = await rasters(
    db,
    series.map(({ id }) => id),
    rasterOf(window, RANKING_COLUMNS),
  )
  const ranked = series
    .map((each) => ({ each, mean: summaries.get(each.id)?.mean ?? -Infinity }))
    .sort((a, b) => b.mean - a.mean)
  return { ...member, series: ranked.slice(0, pick.busiest).map(({ each }) => each) }
}

const seriesOf = (members: readonly Member[]): number[] => [
  ...new Set(members.flatMap(({ series, others }) => [...series, ...others].map(({ id }) => id))),
]

const panelKey = (shows: Shows, measure: SubjectRow['measure']): string =>
  measureOf(measure).kind === 'state'
    ? measure
    : `${measureOf(measure).unit} ${shows.suffix} ${shows.isPlain} ${shows.isDifference}`

/** Only twelve colours can be told apart: more are a band or a heat map, whatever the address says. */
function viewIn(url: URL, count: number): Given['view'] {
  const asked = url.searchParams.get('v')
  if (asked === 'heat' || asked === 'band') return asked
  return count > MOST_CURVES ? 'heat' : 'curves'
}

function windowProblems(url: URL, { key }: TimeWindow): string[] {
  const { searchParams } = url
  if (key === 'own' || (!searchParams.has('from') && !searchParams.has('to'))) return []
  return [
    'The window that was asked for ends before it begins, is no time, or is longer than a year; another is shown.',
  ]
}

/** The series of an address: those of its picks, and those that it names by their ids. */
async function whatIsAsked(present: Present, url: URL) {
  const { picks, problems } = picksIn(url)
  const words = picks.length === 0 ? () => '' : await placeWords(present)
  const named = [...new Set((url.searchParams.get('s') ?? '').split(',').map(Number))]
    .filter((id) => Number.isInteger(id) && id > 0 && id < 2 ** 31)
    .slice(0, MOST_SERIES)
  const measures = [
    ...new Set(
      picks.flatMap(({ measure, against }) => [measure, ...(against === null ? [] : [against.measure])]),
    ),
  ]
  const [all, own] = await Promise.all([
    present.scopes().then((scopes) => listSubjects(present.db, { measures }, scopes)),
    listSubjects(present.db, { ids: named }),
  ])
  const members: Member[] = []
  const told: { readonly pick: Pick; readonly words: string; readonly count: number }[] = []
  let room = MOST_SERIES
  for (const pick of picks) {
    const place = words(pick)
    if (place === null) {
      problems.push(
        `The ${pick.scope} of a pick is gone: ${measureOf(pick.measure).label} is shown without it.`,
      )
      continue
    }
    const found = byName(all.filter((subject) => isPicked(pick, subject)))
    const most = pick.busiest === null ? room : MOST_COMPARED
    const series = found.slice(0, most)
    const from = pick.against?.from ?? null
    const fromPlace = from === null ? '' : words(from)
    if (fromPlace === null) {
      problems.push(`What “${pickWords(pick, place)}” is compared with is gone; it is left out.`)
      continue
    }
    const said = pickWords(pick, place, fromPlace)
    if (found.length > series.length)
      problems.push(
        `“${said}” are ${found.length} series; the first ${series.length} by name are shown. Name a room, a rack, a cluster or a tag to see the rest.`,
      )
    if (found.length === 0) problems.push(`“${said}” has no series.`)
    room -= pick.busiest ?? series.length
    const own = new Set(series.map(({ gearId }) => gearId))
    const others =
      from === null
        ? all.filter(({ measure, gearId }) => measure === pick.against?.measure && own.has(gearId))
        : byName(all.filter((subject) => isPicked(comparedOf(pick)!, subject))).slice(0, MOST_SERIES)
    if (from !== null && others.length === 0) problems.push(`“${said}” is compared with what has no series.`)
    members.push({ pick, words: said, series, others })
    told.push({ pick, words: said, count: found.length })
  }
  if (own.length > 0) members.push({ pick: null, words: '', series: byName(own), others: [] })
  const gone = named.filter((id) => !own.some((each) => each.id === id))
  if (gone.length > 0)
    problems.push(
      `${gone.length === 1 ? 'One series' : `${gone.length} series`} of this address ${gone.length === 1 ? 'is' : 'are'} not kept any more (${gone.slice(0, 5).join(', ')}); the rest is shown.`,
    )
  return { members, picks: told, problems }
}

const words = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
const byName = (all: readonly SubjectRow[]): SubjectRow[] =>
  [...all].sort(
    (a, b) => words.compare(a.gearName, b.gearName) || words.compare(a.partName ?? '', b.partName ?? ''),
  )

function toldApart(curves: readonly Wanted[]): Wanted[] {
  const names = namesApart(curves)
  return curves.map((each, index) => ({ ...each, name: names[index]! }))
}

const eachOf = ({ series }: Member): Wanted[] =>
  series.map((subject) => ({
    key: `s${subject.id}`,
    name: nameOf(subject),
    measure: subject.measure,
    shows: showsOf(subject.measure, null),
    gearId: subject.gearId,
    series: subject,
    row: null,
  }))

/** The line that is in force on the first series of each panel: its warning line, else its critical one. */
async function linesIn({ present, wanted }: Given): Promise<Map<string, NonNullable<PastPanel['line']>>> {
  const rules = await present.rules()
  const lines = new Map<string, NonNullable<PastPanel['line']>>()
  for (const { shows, measure, series } of wanted) {
    const key = panelKey(shows, measure)
    if (series === null || lines.has(key)) continue
    const found = rulesInForce(rules, series).flatMap(({ kept: { rule } }) =>
      rule.kind === 'level' && rule.of.with === null
        ? rule.lines.map(({ severity, at }) => ({ severity, at, direction: rule.direction }))
        : [],
    )
    const line = found.find(({ severity }) => severity === 'warning') ?? found[0]
    if (line !== undefined) lines.set(key, line)
  }
  return lines
}

async function statisticsOf(given: Given, lines: ReadonlyMap<string, LineAcross>) {
  const { present, window, wanted, summaries } = given
  const own = wanted.flatMap((each) => (each.series === null ? [] : [{ ...each, series: each.series }]))
  const exact = own.length <= EXACT_SERIES && window.toMs - window.fromMs <= EXACT_MS
  const of = new Map<string, CurveStatistics>()
  for (const { key, row, shows, measure } of wanted)
    if (row !== null) of.set(key, statisticsOfRow(row, lines.get(panelKey(shows, measure)) ?? null))
  const panels = new Map<string, typeof own>()
  for (const each of own) {
    const key = panelKey(each.shows, each.measure)
    panels.set(key, [...(panels.get(key) ?? []), each])
  }
  let from: string = exact ? 'readings' : 'days'
  for (const [key, all] of panels) {
    const ids = all.map(({ series }) => series.id)
    const found = await percentiles(present.db, ids, {
      fromMs: window.fromMs,
      toMs: window.toMs,
      ratios: [0, 0.95, 0.99, 1],
      exact,
      line: lines.get(key) ?? null,
    })
    from = found.from
    for (const { key: curve, series, row } of all) {
      const [min = null, p95 = null, p99 = null, max = null] = found.bySeries.get(series.id) ?? []
      const summary = summaries?.get(series.id)
      const beyond = found.beyond.get(series.id) ?? null
      of.set(curve, {
        ...(row === null ? NO_STATISTICS : (of.get(curve) ?? NO_STATISTICS)),
        ...(summary === undefined ? { min, max } : summary),
        p95,
        p99,
        beyond,
      })
    }
  }
  return {
    of,
    from:
      own.length === 0
        ? ('columns' as const)
        : from === 'readings'
          ? ('readings' as const)
          : ('sketches' as const),
  }
}

/** What is drawn as curves: of plain series the true least and most of each pixel, of computed ones their columns. */
async function drawnOf(given: Given) {
  const { present, window, wanted, view, raster, under } = given
  const curves = new Map<string, DrawnCurve[]>()
  const summaries = new Map<string, Summary>()
  if (view !== 'curves') return { curves, summaries, from: 'hours' as const }
  const plain = wanted.flatMap((each) =>
    each.row === null && each.series !== null ? [{ ...each, series: each.series }] : [],
  )
  const pixels = plain.length > FEW_CURVES ? PIXELS.many : PIXELS.few
  const ask = (shiftMs: number) =>
    drawings(
      present.db,
      plain.map(({ series }) => ({ id: series.id, longestGapMs: longestGapOf(given, series) })),
      { fromMs: window.fromMs - shiftMs, toMs: window.toMs - shiftMs, pixels },
    )
  const [now, before] = await Promise.all([ask(0), under === null ? null : ask(under.shiftMs)])
  const colourOf = (key: string): number => wanted.findIndex((each) => each.key === key)
  plain.forEach(({ key, name }, index) => {
    const { curve, gaps, summary } = now[index]!
    if (summary !== null) summaries.set(key, summary)
    const own: DrawnCurve[] = [
      { key, label: name, colour: colourOf(key), isEarlier: false, ...pointsOf(curve, gaps, 0) },
    ]
    if (before !== null && under !== null)
      own.unshift({
        key: `${key} earlier`,
        label: `${name}, ${EARLIER[under.by]}`,
        colour: colourOf(key),
        isEarlier: true,
        ...pointsOf(before[index]!.curve, before[index]!.gaps, under.shiftMs),
      })
    curves.set(key, own)
  })
  const middles = Float64Array.from(
    { length: raster.columns },
    (_, column) => raster.fromMs + (column + 0.5) * raster.stepMs,
  )
  for (const { key, name, row } of wanted)
    if (row !== null)
      curves.set(key, [
        {
          key,
          label: name,
          colour: colourOf(key),
          isEarlier: false,
          times: middles,
          values: row.mean.slice(),
        },
      ])
  return { curves, summaries, from: now[0]?.from ?? ('hours' as const) }
}

const longestGapOf = ({ intervalMs }: Given, { sourceId }: SubjectRow): number =>
  Math.max(3 * (intervalMs.get(sourceId) ?? USUAL_MS), SHORTEST_GAP_MS)

/** Points with a break where nothing was heard. */
function pointsOf(
  { times, values }: { readonly times: Float64Array; readonly values: Float64Array },
  gaps: readonly { readonly fromMs: number; readonly toMs: number }[],
  shiftMs: number,
): Points {
  const most = times.length + gaps.length
  const made = { times: new Float64Array(most), values: new Float64Array(most) }
  let [count, gap] = [0, 0]
  const add = (atMs: number, value: number): void => {
    made.times[count] = atMs + shiftMs
    made.values[count] = value
    count += 1
  }
  times.forEach((atMs, index) => {
    for (; gap < gaps.length && gaps[gap]!.toMs <= atMs; gap += 1) add(gaps[gap]!.fromMs + 1, NaN)
    add(atMs, values[index]!)
  })
  return { times: made.times.slice(0, count), values: made.values.slice(0, count) }
}
interface Points {
  readonly times: Float64Array
  readonly values: Float64Array
}

async function panelsOf(
  given: Given,
  lines: ReadonlyMap<string, NonNullable<PastPanel['line']>>,
  drawn: Awaited<ReturnType<typeof drawnOf>>,
): Promise<PastPanel[]> {
  const { present, window, wanted, view } = given
  const keys = [...new Set(wanted.map(({ shows, measure }) => panelKey(shows, measure)))]
  const ids = view === 'curves' ? wanted.flatMap(({ series }) => series?.id ?? []) : []
  const alerts = await alertSpans(present.db, ids, new Date(window.fromMs), new Date(window.toMs))
  return keys.map((key) => {
    const own = wanted.filter(({ shows, measure }) => panelKey(shows, measure) === key)
    const first = own[0]!
    const labels = [...new Set(own.map(({ measure }) => measureOf(measure).label))]
    const seriesIds = new Set(own.flatMap(({ series }) => series?.id ?? []))
    return {
      key,
      title: labels.length <= 3 ? labels.join(', ') : measureOf(first.measure).group,
      unit: measureOf(first.measure).unit,
      shows: first.shows,
      line: lines.get(key) ?? null,
      curves: own.flatMap((each) => drawn.curves.get(each.key) ?? []),
      spans: alerts
        .filter(({ seriesId }) => seriesId !== null && seriesIds.has(seriesId))
        .map(({ sinceAt, clearedAt, severity }) => ({
          fromMs: Math.max(window.fromMs, sinceAt.getTime()),
          toMs: Math.min(window.toMs, clearedAt?.getTime() ?? window.toMs),
          severity,
        })),
      heat:
        view === 'curves'
          ? null
          : {
              keys: own.map(({ key: curve }) => curve),
              means: own.map(({ row }) => Float32Array.from(row?.mean ?? [])),
            },
    }
  })
}
