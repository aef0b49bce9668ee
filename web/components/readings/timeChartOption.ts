import type { EChartsCoreOption } from 'echarts/core'
import { ceilingOf, formatReading, type MeasureKey, resolutionOf } from '#core/catalogue'
import { axisBounds, type Gap, namePlaces } from '#core/readings'
import type { Severity } from '#core/rules'
import { formatInstant, formatTick, timeTicks, type Unit } from '#core/units'

const COLOURS = ['--s1', '--s2', '--s3', '--s4', '--s5', '--s6']
/** Of a curve, by its place in the chart. */
export const colourOf = (index: number): string => `var(${COLOURS[index % COLOURS.length]!})`

interface DrawnCurve {
  readonly label: string
  readonly times: ArrayLike<number>
  /** `null` and NaN break the curve. */
  readonly values: ArrayLike<number | null>
  readonly gaps?: readonly Gap[]
  /** Its place among the colours, when it is not its place among the curves. */
  readonly colour?: number
  /** Of another time, laid under the others. */
  readonly isEarlier?: boolean
}

/** Of many curves at each time the least, the quartiles and the most. */
export interface DrawnBand {
  readonly times: readonly number[]
  readonly min: readonly (number | null)[]
  readonly low: readonly (number | null)[]
  readonly median: readonly (number | null)[]
  readonly high: readonly (number | null)[]
  readonly max: readonly (number | null)[]
}

export interface AxisMark {
  readonly atMs: number
  readonly sign: string
}

/** What is drawn on one pair of axes. */
export interface Drawable {
  readonly unit: Unit
  readonly measure: MeasureKey
  readonly curves: readonly DrawnCurve[]
  readonly band?: DrawnBand
  readonly lines: readonly { readonly value: number; readonly severity: Severity; readonly text: string }[]
  readonly spans: readonly { readonly fromMs: number; readonly toMs: number; readonly severity: Severity }[]
  /** Where nothing was heard of any of its curves. */
  readonly gaps: readonly Gap[]
  /** Marks on the axis of time: something has changed, or was said, there. */
  readonly marks?: readonly AxisMark[]
  /** How its numbers are worded, when not as readings of its measure. */
  readonly say?: (value: number) => string
}

interface Shown {
  readonly chart: Drawable
  readonly window: { readonly fromMs: number; readonly toMs: number }
  readonly timeZone: string
}
type Token = (name: string) => string

/** So many labels fit beside each other in the narrowest chart. */
const MOST_TICKS = 8
/** So large a share of the axis has room for two words; in the middle of a smaller one, at its end, they would be cut off. */
const ROOM_FOR_WORDS = 0.14

/** What ECharts draws of a chart, in the colours of the theme that the document has now. */
export function timeChartOption(shown: Shown): EChartsCoreOption {
  const { chart, window } = shown
  const style = getComputedStyle(document.documentElement)
  const token: Token = (name) => style.getPropertyValue(name).trim()
  const ink3 = token('--ink-3')
  const points = chart.curves.reduce((sum, { times }) => sum + times.length, 0)
  const width = points > MOST_BROAD ? 1 : 1.5
  const ticks = timeTicks(window.fromMs, window.toMs, shown.timeZone, MOST_TICKS)
  return {
    animation: false,
    textStyle: { fontFamily: 'Archivo Variable', fontSize: 11 },
    grid: { left: 62, right: 10, top: 10, bottom: 20 },
    xAxis: {
      type: 'time',
      min: window.fromMs,
      max: window.toMs,
      axisLine: { lineStyle: { color: token('--rule') } },
      axisTick: { customValues: ticks },
      axisLabel: {
        color: ink3,
        fontSize: 10,
        hideOverlap: true,
        customValues: ticks,
        formatter: (atMs: number) => formatTick(atMs, window, shown.timeZone),
      },
      splitLine: { show: false },
    },
    yAxis: {
      type: 'value',
      scale: true,
      splitNumber: 3,
      axisLabel: { color: ink3, fontSize: 10, formatter: (value: number) => axisValue(value, chart) },
      splitLine: { lineStyle: { color: token('--rule-2') } },
      ...bounds(chart),
    },
    tooltip: {
      trigger: 'axis',
      confine: true,
      backgroundColor: token('--sheet'),
      borderColor: token('--ink'),
      textStyle: { color: token('--ink'), fontSize: 12 },
      formatter: (points: unknown) => tooltip(points as readonly ChartPoint[], shown),
      axisPointer: { label: { show: false } },
    },
    // The crosshair has a layer of its own: the curves are not drawn anew for each step of the pointer. Said here, for of what
    // is said under the tooltip only some is taken.
    axisPointer: { zlevel: 1, triggerEmphasis: false },
    series: [
      ...chart.curves.map((curve, index) => ({
        type: 'line',
        name: curve.label,
        showSymbol: curve.times.length < 3,
        symbolSize: 4,
        lineStyle: lineStyle(curve, index, width),
        emphasis: { focus: 'series', lineStyle: { width: 2.5 } },
        // Of many the one that is meant is pointed at in their table.
        silent: chart.curves.length > MOST_POINTED_AT,
        blur: { lineStyle: { opacity: 0.25 } },
        color: token(colourName(curve, index)),
        step: chart.unit === 'state' ? 'end' : false,
        data: withBreaks(curve),
        ...(index === 0 ? marks(shown, token) : {}),
      })),
      ...(chart.band === undefined ? [] : bandSeries(chart.band, token)),
    ],
  }
}

const MOST_POINTED_AT = 6
/**
 * With more points the curves are one pixel broad: without a graphics processor a browser draws such a line some thirty
 * times faster than a broader one, of which it has to work out the outline. Each dash is a line of its own: they are long.
 */
const MOST_BROAD = 2500
const LONG_DASHES = [12, 4]

const colourName = ({ colour }: DrawnCurve, index: number): string =>
  COLOURS[(colour ?? index) % COLOURS.length]!

/** Beyond six the colours come again, with broken lines; what was earlier is faint. */
function lineStyle({ colour, isEarlier }: DrawnCurve, index: number, width: number) {
  const place = colour ?? index
  return {
    width: isEarlier === true ? 1 : width,
    opacity: isEarlier === true ? 0.45 : 1,
    type: place < COLOURS.length ? 'solid' : width > 1 ? 'dashed' : LONG_DASHES,
  }
}

/** The span of all lightly, the half in the middle darker, and the median. */
function bandSeries(band: DrawnBand, token: Token) {
  const colour = token('--s1')
  const base = { type: 'line', symbol: 'none', silent: true, connectNulls: false, lineStyle: { width: 0 } }
  const difference = (upper: readonly (number | null)[], lower: readonly (number | null)[]) =>
    pairs(band.times, (index) => (upper[index] ?? NaN) - (lower[index] ?? NaN))
  const own = (values: readonly (number | null)[]) => pairs(band.times, (index) => values[index] ?? NaN)
  const layer = (
    stack: string,
    lower: readonly (number | null)[],
    upper: readonly (number | null)[],
    opacity: number,
  ) => [
    { ...base, stack, stackStrategy: 'all', data: own(lower), tooltip: { show: false } },
    {
      ...base,
      stack,
      stackStrategy: 'all',
      data: difference(upper, lower),
      areaStyle: { color: colour, opacity },
      tooltip: { show: false },
    },
  ]
  return [
    ...layer('all', band.min, band.max, 0.13),
    ...layer('half', band.low, band.high, 0.25),
    {
      ...base,
      name: 'median',
      color: colour,
      lineStyle: { width: 1.5, color: colour },
      data: own(band.median),
    },
  ]
}

interface ChartPoint {
  readonly seriesIndex?: number
  readonly seriesName?: string
  readonly value?: unknown
}

/** What stood at an instant, made of elements: text from devices is never markup here. */
function tooltip(points: readonly ChartPoint[], { chart, timeZone }: Shown): HTMLElement {
  const sheet = document.createElement('div')
  const said = points.flatMap(({ seriesIndex = 0, seriesName = '', value }) => {
    const [atMs, read] = Array.isArray(value) ? (value as readonly unknown[]) : []
    // What a band is stacked of has no name, and says nothing by itself.
    return typeof atMs === 'number' &&
      typeof read === 'number' &&
      !Number.isNaN(read) &&
      !/^series/.test(seriesName)
      ? [{ seriesIndex, seriesName, atMs, read }]
      : []
  })
  const when = document.createElement('p')
  when.textContent = said[0] === undefined ? 'Not heard' : formatInstant(said[0].atMs, timeZone)
  sheet.append(when)
  for (const { seriesIndex, seriesName, read } of said) {
    const row = document.createElement('p')
    const dot = document.createElement('span')
    dot.className = 'mr-1.5 inline-block size-2'
    dot.style.backgroundColor = colourOf(chart.curves[seriesIndex]?.colour ?? seriesIndex)
    const value = document.createElement('b')
    value.className = 'ml-3'
    value.textContent = wordsOf(read, chart)
    row.append(dot, seriesName, value)
    sheet.append(row)
  }
  return sheet
}

const wordsOf = (value: number, { say, measure }: Drawable): string =>
  say === undefined ? formatReading(measure, value) : say(value)

/** Between states there is nothing to name. */
function axisValue(value: number, chart: Drawable): string {
  const words = wordsOf(value, chart)
  return chart.unit === 'state' && words === `state ${value}` ? '' : words
}

/** The gaps that have their words: those with room for them, else the longest. */
function namedGaps(gaps: readonly Gap[], window: Shown['window']): ReadonlySet<Gap> {
  const share = ({ fromMs, toMs }: Gap): number => (toMs - fromMs) / (window.toMs - window.fromMs)
  const roomy = gaps.filter((gap) => share(gap) >= ROOM_FOR_WORDS)
  return new Set(roomy.length > 0 ? roomy : [...gaps].sort((a, b) => share(b) - share(a)).slice(0, 1))
}

/** Where the words of a gap stand: in its middle, and near an end of the axis so that they are not cut off there. */
function besideEnds({ fromMs, toMs }: Gap, window: Shown['window']): 'inside' | 'insideLeft' | 'insideRight' {
  const middle = (Math.max(fromMs, window.fromMs) + Math.min(toMs, window.toMs)) / 2
  const share = (middle - window.fromMs) / (window.toMs - window.fromMs)
  const near = ROOM_FOR_WORDS / 2
  return share > 1 - near ? 'insideRight' : share < near ? 'insideLeft' : 'inside'
}

/** A curve is broken where nothing was heard, never drawn across. */
function withBreaks({ times, values, gaps = [] }: DrawnCurve): Float64Array {
  if (gaps.length === 0) return pairs(times, (index) => values[index] ?? NaN)
  const points = new Float64Array(2 * (times.length + gaps.length))
  let [at, gap] = [0, 0]
  const add = (atMs: number, value: number): void => {
    points[at] = atMs
    points[at + 1] = value
    at += 2
  }
  for (let index = 0; index < times.length; index += 1) {
    for (; gap < gaps.length && gaps[gap]!.toMs <= times[index]!; gap += 1) add(gaps[gap]!.fromMs + 1, NaN)
    add(times[index]!, values[index] ?? NaN)
  }
  return points.subarray(0, at)
}

/** Times and values by turns: as plain numbers a long curve is neither copied nor gone through point by point. */
function pairs(times: ArrayLike<number>, valueOf: (index: number) => number): Float64Array {
  const points = new Float64Array(2 * times.length)
  for (let index = 0; index < times.length; index += 1) {
    points[2 * index] = times[index]!
    points[2 * index + 1] = valueOf(index)
  }
  return points
}

/** Round ends of the axis, wide enough for the lines of the rule that are near what was read. */
function bounds(chart: Drawable): { min?: number; max?: number; interval?: number } {
  const all = [...chart.curves.map(({ values }) => values), chart.band?.min ?? [], chart.band?.max ?? []]
  const [least, most] = endsOf(all)
  if (least > most) return {}
  return axisBounds(
    [least, most],
    chart.lines.map((line) => line.value),
    chart.say === undefined ? resolutionOf(chart.measure) : 0.001,
    chart.say === undefined ? ceilingOf(chart.measure) : Infinity,
  )
}

function endsOf(all: readonly ArrayLike<number | null>[]): readonly [least: number, most: number] {
  let [least, most] = [Infinity, -Infinity]
  for (const values of all)
    for (let index = 0; index < values.length; index += 1) {
      const value = values[index] ?? NaN
      if (value < least) least = value
      if (value > most) most = value
    }
  return [least, most]
}

/** Of the height of a chart without its axis, as much as a name takes. */
const NAME_HEIGHT = 0.115

function placesOfNames(chart: Drawable): string[] {
  const lines = chart.lines.map(({ value }) => value)
  const { min = Math.min(...lines), max = Math.max(...lines) } = bounds(chart)
  return namePlaces(lines, NAME_HEIGHT * (max - min), min).map(
    ({ side, isAbove }) => `inside${side === 'left' ? 'Start' : 'End'}${isAbove ? 'Top' : 'Bottom'}`,
  )
}

function marks({ chart, window }: Shown, token: Token) {
  const named = namedGaps(chart.gaps, window)
  const places = placesOfNames(chart)
  return {
    markLine: {
      silent: true,
      symbol: 'none',
      data: [
        ...(chart.marks ?? []).map(({ atMs, sign }) => ({
          xAxis: atMs,
          lineStyle: { color: token('--ink-3'), type: 'dotted', width: 1 },
          label: { formatter: sign, position: 'end', color: token('--ink-3'), fontSize: 9, distance: 0 },
        })),
        ...chart.lines.map((line, index) => ({
          yAxis: line.value,
          lineStyle: {
            color: token(line.severity === 'critical' ? '--crit' : '--warn'),
            type: 'dashed',
            width: 1,
          },
          label: {
            formatter: `${line.severity}: ${line.text}`,
            position: places[index]!,
            color: token(line.severity === 'critical' ? '--crit' : '--warn'),
            fontSize: 10,
          },
        })),
      ],
    },
    markArea: {
      silent: true,
      data: [
        ...chart.spans.map((span) => [
          {
            xAxis: span.fromMs,
            itemStyle: { color: token(span.severity === 'critical' ? '--crit-soft' : '--warn-soft') },
          },
          { xAxis: span.toMs },
        ]),
        ...chart.gaps.map((gap) => [
          {
            xAxis: gap.fromMs,
            ...(named.has(gap) ? { name: 'not heard' } : {}),
            label: { color: token('--blind'), fontSize: 10, position: besideEnds(gap, window) },
            itemStyle: {
              color: 'transparent',
              borderColor: token('--blind'),
              borderWidth: 1,
              borderType: 'dashed',
            },
          },
          { xAxis: gap.toMs },
        ]),
      ],
    },
  }
}
