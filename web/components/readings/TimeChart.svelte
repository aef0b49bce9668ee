<script lang="ts">
  import Link from '../ui/Link.svelte'
  import Table from '../ui/Table.svelte'
  import type { ECharts, EChartsCoreOption } from 'echarts/core'
  import { ceilingOf, formatReading, resolutionOf } from '#core/catalogue'
  import { axisBounds } from '#core/readings'
  import { listNames } from '#core/rules'
  import { formatClock } from '#core/units'
  import type { ChartView } from '$lib/server/readings/charts'

  let {
    chart,
    window,
    timeZone,
    zoom,
  }: {
    chart: ChartView
    window: { readonly fromMs: number; readonly toMs: number }
    timeZone: string
    /** A stretch of the time axis that was dragged over. */
    zoom: (fromMs: number, toMs: number) => void
  } = $props()

  const COLOURS = ['--s1', '--s2', '--s3', '--s4', '--s5', '--s6']
  const colour = (index: number): string => `var(${COLOURS[index % COLOURS.length]})`
  let node = $state<HTMLElement | null>(null)
  let instance = $state.raw<ECharts | null>(null)
  let themeTurns = $state(0)
  const say = $derived((value: number): string => formatReading(chart.measure, value))
  const spoken = $derived(
    `${chart.title}: ${chart.curves.map((curve) => `${curve.label} ${curve.summary === null ? 'without readings' : `last ${curve.summary.last}, from ${curve.summary.min} to ${curve.summary.max}`}`).join('; ')}`,
  )

  function option(): EChartsCoreOption {
    const style = getComputedStyle(document.documentElement)
    const token = (name: string): string => style.getPropertyValue(name).trim()
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
          formatter: axisTime,
        },
        splitLine: { show: false },
      },
      yAxis: {
        type: 'value',
        scale: true,
        splitNumber: 3,
        axisLabel: { color: ink3, fontSize: 10, formatter: axisValue },
        splitLine: { lineStyle: { color: token('--rule-2') } },
        ...bounds(),
      },
      tooltip: {
        trigger: 'axis',
        confine: true,
        backgroundColor: token('--sheet'),
        borderColor: token('--ink'),
        textStyle: { color: token('--ink'), fontSize: 12 },
        formatter: (points: unknown) => tooltip(points as readonly ChartPoint[]),
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
        ...(index === 0 ? marks(token) : {}),
      })),
    }
  }

  interface ChartPoint {
    readonly seriesIndex?: number
    readonly seriesName?: string
    readonly value?: unknown
  }

  /** What stood at an instant, made of elements: text from devices is never markup here. */
  function tooltip(points: readonly ChartPoint[]): HTMLElement {
    const sheet = document.createElement('div')
    const said = points.flatMap(({ seriesIndex = 0, seriesName = '', value }) => {
      const [atMs, read] = Array.isArray(value) ? (value as readonly unknown[]) : []
      return typeof atMs === 'number' && typeof read === 'number'
        ? [{ seriesIndex, seriesName, atMs, read }]
        : []
    })
    const when = document.createElement('p')
    when.textContent = said[0] === undefined ? 'Not heard' : instantWords(said[0].atMs)
    sheet.append(when)
    for (const { seriesIndex, seriesName, read } of said) {
      const row = document.createElement('p')
      const dot = document.createElement('span')
      dot.className = 'mr-1.5 inline-block size-2'
      dot.style.backgroundColor = `var(${COLOURS[seriesIndex % COLOURS.length]!})`
      const value = document.createElement('b')
      value.className = 'ml-3'
      value.textContent = say(read)
      row.append(dot, seriesName, value)
      sheet.append(row)
    }
    return sheet
  }

  const instantWords = (atMs: number): string =>
    new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'medium', timeZone }).format(atMs)

  /** Each rule once, with the curves it is in force on. */
  const inForce = $derived(
    [...new Set(chart.rules.map(({ id }) => id))].map((id) => {
      const own = chart.rules.filter((rule) => rule.id === id)
      return { key: id, labels: own.map(({ label }) => label), rule: own[0]! }
    }),
  )

  /** Between states there is nothing to name. */
  const axisValue = (value: number): string =>
    chart.unit === 'state' && say(value) === `state ${value}` ? '' : say(value)

  /** The clock within a day; a day's name where one begins, and alone where a window is many days long. */
  function axisTime(atMs: number): string {
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
  function bounds(): { min?: number; max?: number; interval?: number } {
    const values = chart.curves.flatMap((curve) => curve.values)
    if (values.length === 0) return {}
    return axisBounds(
      values,
      chart.lines.map((line) => line.value),
      resolutionOf(chart.measure),
      ceilingOf(chart.measure),
    )
  }

  /** Of two lines close to each other one is named above, the other below. */
  const isUpper = (value: number): boolean => value >= Math.max(...chart.lines.map((line) => line.value))

  function marks(token: (name: string) => string) {
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
            position: isUpper(line.value) ? 'insideStartTop' : 'insideStartBottom',
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

  $effect(() => {
    const element = node
    if (element === null) return
    let made: ECharts | null = null
    let isGone = false
    const fit = new ResizeObserver(() => made?.resize())
    void import('$lib/client/echarts').then(({ init }) => {
      if (isGone) return
      made = init(element, undefined, { renderer: 'canvas' })
      made.on('datazoom', (event) => {
        const { startValue, endValue } =
          (event as { batch?: { startValue?: number; endValue?: number }[] }).batch?.[0] ?? {}
        if (startValue !== undefined && endValue !== undefined)
          zoom(Math.round(startValue), Math.round(endValue))
      })
      fit.observe(element)
      instance = made
    })
    const onTheme = () => {
      themeTurns += 1
    }
    addEventListener('rack:theme', onTheme)
    return () => {
      isGone = true
      fit.disconnect()
      removeEventListener('rack:theme', onTheme)
      made?.dispose()
      instance = null
    }
  })
  $effect(() => {
    void themeTurns
    instance?.setOption(option(), { notMerge: true })
    // Dragging over the chart zooms, without a tool to be chosen first.
    instance?.dispatchAction({ type: 'takeGlobalCursor', key: 'dataZoomSelect', dataZoomSelectActive: true })
  })
</script>

<section
  class="border-rule-2 grid grid-cols-[minmax(0,1fr)_290px] gap-3 border-t py-2 first:border-t-0"
  data-testid="chart"
>
  <div>
    <h3 class="text-[11px] font-[640]">
      {chart.title}
      {#if chart.madeOf === 'hours'}<span class="text-ink-3 font-normal">· least and most of whole hours</span
        >{/if}
    </h3>
    <div bind:this={node} class="h-36 w-full" role="img" aria-label={spoken}></div>
    <ul class="text-ink-2 mt-0.5 text-xs" data-testid="in-force">
      {#each inForce as { key, labels, rule } (key)}
        <li>
          {#if chart.curves.length > 1}{listNames(labels, 4)}:{/if}
          {rule.words}
          <span class="text-ink-3"
            >by the {rule.isDefault ? 'shipped' : 'own'} rule
            <Link href="/alerts/rules/{rule.id}">{rule.name}</Link>, for {rule.scope}{rule.overrides
              .length === 0
              ? ''
              : `, in place of ${listNames(rule.overrides)}`}</span
          >
          {#if labels.length === 1}<Link
              class="text-ink-3"
              href="/alerts/rules/new?series={rule.seriesId}&like={rule.id}">a line of its own</Link
            >{/if}
        </li>
      {:else}
        <li class="text-ink-3">
          No line is in force here.
          {#if chart.curves[0] !== undefined}<Link href="/alerts/rules/new?series={chart.curves[0].seriesId}"
              >Set one</Link
            >{/if}
        </li>
      {/each}
    </ul>
  </div>
  <Table class="self-start text-[11px]">
    <thead>
      <tr class="text-ink-3 text-right">
        <th class="text-left font-medium"><span class="sr-only">Curve</span></th>
        <th class="pl-2 font-medium">last</th>
        <th class="pl-2 font-medium">least</th>
        <th class="pl-2 font-medium">mean</th>
        <th class="pl-2 font-medium">most</th>
      </tr>
    </thead>
    <tbody>
      {#each chart.curves as curve, index (curve.seriesId)}
        <tr class="text-right">
          <td class="max-w-28 truncate text-left font-semibold">
            <svg width="10" height="10" class="mr-1 inline" aria-hidden="true"
              ><path d="M0 5h10" stroke={colour(index)} stroke-width="3" /></svg
            >{curve.label}
          </td>
          {#if curve.summary === null}
            <td colspan="4" class="text-ink-3">no readings here</td>
          {:else}
            <td class="pl-2 font-semibold whitespace-nowrap">{curve.summary.last}</td>
            <td class="pl-2 whitespace-nowrap">{curve.summary.min}</td>
            <td class="pl-2 whitespace-nowrap">{curve.summary.mean}</td>
            <td class="pl-2 whitespace-nowrap">{curve.summary.max}</td>
          {/if}
        </tr>
      {/each}
    </tbody>
  </Table>
</section>
