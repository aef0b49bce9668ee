import type { EChartsCoreOption } from 'echarts/core'
import { measureOf } from '#core/catalogue'
import { amountIn, type KeptForecast } from '#core/forecast'
import { formatDate, timeTicks } from '#core/units'

interface Shown {
  readonly past: readonly (readonly [number, number])[]
  readonly body: KeptForecast
  readonly nowMs: number
  readonly madeMs: number
  readonly runOutMs: number | null
  readonly timeZone: string
}
type Token = (name: string) => string

const DAY_MS = 86_400_000
/** Days with their year are broad. */
const MOST_TICKS = 6

/** What ECharts draws of one forecast: what was, what was recognised, the path and its band, and the lines. */
export function aheadOption(shown: Shown): EChartsCoreOption {
  const style = getComputedStyle(document.documentElement)
  const token: Token = (name) => style.getPropertyValue(name).trim()
  const points = pointsOf(shown)
  const recent = { ...shown, past: recentOf(shown, points) }
  const ends = [...recent.past.map(([at]) => at), ...points.map(({ at }) => at), shown.nowMs]
  const ticks = timeTicks(Math.min(...ends), Math.max(...ends), shown.timeZone, MOST_TICKS)
  return {
    animation: false,
    textStyle: { fontFamily: 'Archivo Variable', fontSize: 11 },
    grid: { left: 64, right: 112, top: 18, bottom: 34 },
    xAxis: {
      type: 'time',
      axisLine: { lineStyle: { color: token('--rule') } },
      axisTick: { customValues: ticks },
      axisLabel: {
        color: token('--ink-3'),
        fontSize: 10,
        hideOverlap: true,
        customValues: ticks,
        formatter: (at: number) => formatDate(at, shown.timeZone),
      },
      splitLine: { show: false },
    },
    yAxis: valueAxis(recent, points, token),
    series: [pastSeries(recent, token), ...bandOf(points, token('--rule')), path(points, token('--ink'))],
  }
}

/** So much of the past that what is ahead has a fifth of the width at least. */
function recentOf({ past, nowMs }: Shown, points: readonly Point[]): Shown['past'] {
  const aheadMs = (points.at(-1)?.at ?? nowMs) - nowMs
  const fromMs = nowMs - Math.max(120 * DAY_MS, 2.5 * aheadMs)
  return past.filter(([at]) => at >= fromMs)
}

interface Point {
  readonly at: number
  readonly low: number
  readonly middle: number
  readonly high: number
}

/** The days ahead that are worth drawing: half as long again as until the run-out. */
function pointsOf({ body: { ahead }, nowMs, madeMs, runOutMs }: Shown): Point[] {
  const days = runOutMs === null ? 180 : Math.max(60, ((runOutMs - nowMs) / DAY_MS) * 1.5)
  const last = nowMs + Math.min(730, days) * DAY_MS
  return ahead.p50
    .map((middle, index) => ({
      at: madeMs + index * ahead.everyDays * DAY_MS,
      middle,
      low: ahead.p10[index]!,
      high: ahead.p90[index]!,
    }))
    .filter(({ at }) => at <= last)
}

function valueAxis({ body, past }: Shown, points: readonly Point[], token: Token) {
  const { unit } = measureOf(body.measure)
  const low = Math.min(body.line.at, ...past.map(([, value]) => value), ...points.map((each) => each.low))
  const most = Math.max(...past.map(([, value]) => value))
  const high = Math.max(body.line.at, most, ...points.map((each) => each.high))
  // Beyond full there is nothing, wherever a path leads; but what was is drawn.
  const full = Math.max(body.line.at, most, ...body.others.map(({ line }) => line.at))
  const top = body.direction === 'up' ? Math.min(high, full) : high
  const room = (top - low) * 0.06
  return {
    type: 'value',
    min: Math.max(0, low - room),
    max: top + room,
    splitNumber: 4,
    axisLabel: {
      color: token('--ink-3'),
      fontSize: 10,
      showMinLabel: false,
      showMaxLabel: false,
      formatter: amountIn(unit),
    },
    splitLine: { lineStyle: { color: token('--rule-2') } },
  }
}

function pastSeries(shown: Shown, token: Token) {
  const { past, body, nowMs } = shown
  const accent = token('--accent')
  const growth = body.seen.find((each) => each.what === 'growth')
  const counted =
    growth === undefined
      ? {}
      : {
          markArea: {
            silent: true,
            itemStyle: { color: accent, opacity: 0.07 },
            label: { color: accent, fontSize: 10, position: 'insideTop' },
            data: [
              [{ name: 'what counts', xAxis: Math.max(growth.sinceMs, past[0]?.[0] ?? 0) }, { xAxis: nowMs }],
            ],
          },
        }
  return {
    type: 'line',
    data: past.map(([at, value]) => [at, value]),
    showSymbol: false,
    silent: true,
    lineStyle: { color: accent, width: 1.6 },
    ...counted,
    markLine: {
      silent: true,
      symbol: 'none',
      label: { fontSize: 10, position: 'end', width: 104, overflow: 'truncate' },
      data: [...lineMarks(shown, token), ...timeMarks(shown, token)],
    },
  }
}

const lineMarks = ({ body }: Shown, token: Token) =>
  [body.line, ...body.others.map(({ line }) => line)].map((line, index) => {
    const color = index === 0 ? token('--crit') : token('--ink-3')
    return {
      yAxis: line.at,
      label: { formatter: line.words, color },
      lineStyle: { color, type: 'dashed', width: 1 },
    }
  })

function timeMarks({ body, past, nowMs }: Shown, token: Token) {
  const amount = amountIn(measureOf(body.measure).unit)
  const [ink, ink3] = [token('--ink'), token('--ink-3')]
  const steps = body.seen.filter((each) => each.what === 'step')
  return [
    {
      xAxis: nowMs,
      label: { formatter: 'today', position: 'start', distance: 18, color: ink },
      lineStyle: { color: ink, type: 'solid', width: 1 },
    },
    ...steps
      .filter(({ atMs }) => atMs >= (past[0]?.[0] ?? 0))
      .map(({ atMs, size }) => ({
        xAxis: atMs,
        label: {
          formatter: `${size > 0 ? '+' : '−'}${amount(Math.abs(size))}`,
          position: 'insideEndTop',
          color: ink3,
        },
        lineStyle: { color: ink3, type: 'dotted', width: 1 },
      })),
  ]
}

const path = (points: readonly Point[], color: string) => ({
  type: 'line',
  data: points.map(({ at, middle }) => [at, middle]),
  showSymbol: false,
  silent: true,
  lineStyle: { color, width: 1.4, type: 'dashed' },
})

/** The band as a low line that is not seen, and what lies above it. */
const bandOf = (points: readonly Point[], color: string) => {
  const unseen = { type: 'line', stack: 'band', showSymbol: false, silent: true, lineStyle: { opacity: 0 } }
  return [
    { ...unseen, data: points.map(({ at, low }) => [at, low]) },
    {
      ...unseen,
      data: points.map(({ at, low, high }) => [at, high - low]),
      areaStyle: { color, opacity: 0.6 },
    },
  ]
}
