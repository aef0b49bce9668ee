<script lang="ts" module>
  import type { ECharts, EChartsCoreOption } from 'echarts/core'

  /** Whether the library that draws has been read: then a chart need not wait for the words around it. */
  let isRead = false

  /** A stretch that is dragged over is told, and drawn when it is given: until then nothing is taken out. */
  const DRAGGED_OVER = {
    toolbox: {
      itemSize: 0,
      feature: {
        dataZoom: { yAxisIndex: 'none', filterMode: 'none', icon: { zoom: 'none', back: 'none' } },
      },
    },
  }

  /**
   * Lays out what is given; it is painted with the next frame, as everything else. The tool by which dragging zooms is taken
   * in the same step: taken after it, everything would be laid out, and painted, a second time.
   */
  function draw(chart: ECharts, given: EChartsCoreOption, isDragged: boolean): void {
    const option = isDragged ? { ...given, ...DRAGGED_OVER } : given
    chart.setOption(option, { notMerge: true, lazyUpdate: true })
    chart.dispatchAction(
      { type: 'takeGlobalCursor', key: 'dataZoomSelect', dataZoomSelectActive: isDragged },
      { silent: true },
    )
  }
</script>

<script lang="ts">
  import type { ClassValue } from 'svelte/elements'

  /** A canvas on which ECharts draws, as large as its place and in the colours of the theme. */
  let {
    option,
    spoken,
    class: looks,
    testid,
    zoom,
    group,
    lit = null,
    onready,
  }: {
    /** What is drawn; asked again when what it reads has changed, and when the theme has. */
    option: () => EChartsCoreOption
    /** What the picture says, in words. */
    spoken: string
    class?: ClassValue
    testid?: string
    /** A stretch of the time axis that was dragged over. Without it nothing is zoomed. */
    zoom?: (fromMs: number, toMs: number) => void
    /** Charts of one group have one crosshair. */
    group?: string
    /** The curve that is lit, by its name. */
    lit?: string | null
    onready?: (chart: ECharts) => void
  } = $props()
  let node = $state<HTMLElement | null>(null)
  let chart = $state.raw<ECharts | null>(null)
  let themeTurns = $state(0)
  /** While a pointer is pressed in the chart, drawing anew would take the stretch that is being dragged over. */
  let isHeld = false
  let drawWhenLetGo: (() => void) | null = null

  function hold(): void {
    isHeld = true
  }

  function letGo(): void {
    if (!isHeld) return
    isHeld = false
    // What was dragged over is told first, by whoever hears the same event.
    setTimeout(() => {
      if (isHeld) return
      drawWhenLetGo?.()
      drawWhenLetGo = null
    })
  }

  $effect(() => {
    const element = node
    if (element === null) return
    let made: ECharts | null = null
    let isGone = false
    // It is asked once at the beginning, too, when everything fits.
    const fit = new ResizeObserver(() => {
      if (made?.getWidth() !== element.clientWidth || made.getHeight() !== element.clientHeight)
        made?.resize()
    })
    // The words are painted first; the library that draws takes as long to be read as they do.
    const painted = new Promise((resolve) => {
      if (isRead) setTimeout(resolve)
      else requestAnimationFrame(() => setTimeout(resolve))
    })
    void painted.then(async () => {
      if (isGone) return
      const { connect, init } = await import('$lib/client/echarts')
      isRead = true
      if (isGone) return
      made = init(element, undefined, { renderer: 'canvas' })
      if (group !== undefined) {
        made.group = group
        connect(group)
      }
      if (zoom !== undefined)
        made.on('datazoom', (event) => {
          const { startValue, endValue } =
            (event as { batch?: { startValue?: number; endValue?: number }[] }).batch?.[0] ?? {}
          if (startValue !== undefined && endValue !== undefined)
            zoom(Math.round(startValue), Math.round(endValue))
        })
      fit.observe(element)
      chart = made
      onready?.(made)
    })
    const onTheme = (): void => void (themeTurns += 1)
    addEventListener('rack:theme', onTheme)
    return () => {
      isGone = true
      fit.disconnect()
      removeEventListener('rack:theme', onTheme)
      made?.dispose()
      chart = null
    }
  })
  $effect(() => {
    void themeTurns
    const canvas = chart
    if (canvas === null) return
    const given = option()
    // The page and its layout, what is where in the chart, and its painting are a task each, none of them long.
    const step = (): void => draw(canvas, given, zoom !== undefined)
    const turn = setTimeout(() => {
      if (isHeld) drawWhenLetGo = step
      else step()
    })
    return () => {
      clearTimeout(turn)
      drawWhenLetGo = null
    }
  })
  $effect(() => {
    if (lit === null) return
    const lighted = chart
    lighted?.dispatchAction({ type: 'highlight', seriesName: lit })
    return () => {
      if (lighted?.isDisposed() === false) lighted.dispatchAction({ type: 'downplay' })
    }
  })
</script>

<svelte:window onpointerup={letGo} onpointercancel={letGo} onblur={letGo} />

<div
  bind:this={node}
  class={['w-full', looks]}
  role="img"
  aria-label={spoken}
  data-testid={testid}
  onpointerdown={hold}
></div>
