import type { EChartsCoreOption } from 'echarts/core'
import { ceilingOf, formatReading, resolutionOf } from '#core/catalogue'
import { axisBounds } from '#core/readings'
import { formatClock } from '#core/units'
import type { ChartView } from '$lib/server/readings/charts'

const COLOURS = ['--s1', '--s2', '--s3', '--s4', '--s5', '--s6']
/** Of a curve, by its place in the chart. */
export const colourOf = (index: number): string => `var(${COLOURS[index % COLOURS.length]!})`

interface Shown {
  readonly chart: ChartView
  readonly window: { readonly fromMs: number; readonly toMs: number }
  readonly timeZone: string
}
type Token = (name: string) => string

/** What ECharts draws of a chart, in the colours of the theme that the document has now. */
export function timeChartOption(shown: Shown): EChartsCoreOption {
  const { chart, window } = shown
  const style = getComputedStyle(document.documentElement)
  const token: Token = (name) => style.getPropertyValue(name).trim()
  const ink3 = token('--ink-3')
  return {
    animation: false,
    textStyle: { fontFamily: 'Archivo Variable', fontSize: 11 },
    grid: { left: 62, right: 10, top: 10, bottom: 20 },
    xAxis: {
      type: 'time',
      min: window.fromMs,
      max: window.toMs,
      axisLine: { lineStyle: { color: token('--rule') } },
      axisLabel: {
        color: ink3,
        fontSize: 10,
        hideOverlap: true,
        formatter: (atMs: number) => axisTime(atMs, shown),
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
    toolbox: {
      show: true,
      itemSize: 0,
      feature: { dataZoom: { yAxisIndex: 'none', icon: { zoom: 'none', back: 'none' } } },
    },
    series: chart.curves.map((curve, index) => ({
      type: 'line',
      name: curve.label,
      showSymbol: curve.times.length < 3,
      symbolSize: 4,
      lineStyle: { width: 1.5 },
      color: token(COLOURS[index % COLOURS.length]!),
      step: chart.unit === 'state' ? 'end' : false,
      data: withBreaks(curve),
      ...(index === 0 ? marks(chart, token) : {}),
    })),
  }
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
    return typeof atMs === 'number' && typeof read === 'number'
      ? [{ seriesIndex, seriesName, atMs, read }]
      : []
  })
  const when = document.createElement('p')
  when.textContent = said[0] === undefined ? 'Not heard' : instantWords(said[0].atMs, timeZone)
  sheet.append(when)
  for (const { seriesIndex, seriesName, read } of said) {
    const row = document.createElement('p')
    const dot = document.createElement('span')
    dot.className = 'mr-1.5 inline-block size-2'
    dot.style.backgroundColor = colourOf(seriesIndex)
    const value = document.createElement('b')
    value.className = 'ml-3'
    value.textContent = formatReading(chart.measure, read)
    row.append(dot, seriesName, value)
    sheet.append(row)
  }
  return sheet
}

const instantWords = (atMs: number, timeZone: string): string =>
  new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'medium', timeZone }).format(atMs)

/** Between states there is nothing to name. */
function axisValue(value: number, chart: ChartView): string {
  const words = formatReading(chart.measure, value)
  return chart.unit === 'state' && words === `state ${value}` ? '' : words
}

/** The clock within a day; a day's name where one begins, and alone where a window is many days long. */
function axisTime(atMs: number, { window, timeZone }: Shown): string {
  const clock = formatClock(atMs, timeZone)
  const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone }).format(atMs)
  const isLong = window.toMs - window.fromMs > 4 * 86_400_000
  return isLong || clock === '00:00' ? day : clock
}

/** A curve is broken where nothing was heard, never drawn across. */
function withBreaks(curve: ChartView['curves'][number]): (readonly [number, number | null])[] {
  const points: (readonly [number, number | null])[] = []
  let gap = 0
  curve.times.forEach((atMs, index) => {
    while (gap < curve.gaps.length && curve.gaps[gap]!.toMs <= atMs) {
      points.push([curve.gaps[gap]!.fromMs + 1, null])
      gap += 1
    }
    points.push([atMs, curve.values[index]!])
  })
  return points
}

/** Round ends of the axis, wide enough for the lines of the rule that are near what was read. */
function bounds(chart: ChartView): { min?: number; max?: number; interval?: number } {
  const values = chart.curves.flatMap((curve) => curve.values)
  if (values.length === 0) return {}
  return axisBounds(
    values,
    chart.lines.map((line) => line.value),
    resolutionOf(chart.measure),
    ceilingOf(chart.measure),
  )
}

function marks(chart: ChartView, token: Token) {
  // Of two lines close to each other one is named above, the other below.
  const highest = Math.max(...chart.lines.map((line) => line.value))
  return {
    markLine: {
      silent: true,
      symbol: 'none',
      data: chart.lines.map((line) => ({
        yAxis: line.value,
        lineStyle: {
          color: token(line.severity === 'critical' ? '--crit' : '--warn'),
          type: 'dashed',
          width: 1,
        },
        label: {
          formatter: `${line.severity}: ${line.text}`,
          position: line.value >= highest ? 'insideStartTop' : 'insideStartBottom',
          color: token(line.severity === 'critical' ? '--crit' : '--warn'),
          fontSize: 10,
        },
      })),
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
            name: 'not heard',
            label: { color: token('--blind'), fontSize: 10, position: 'inside' },
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
