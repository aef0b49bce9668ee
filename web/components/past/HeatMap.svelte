<script lang="ts">
  import { formatMoment, formatTick, timeTicks } from '#core/units'

  /** Rows of many things over columns of time, each cell as dark as its mean. */
  let {
    rows,
    raster,
    low,
    high,
    say,
    nowMs,
    timeZone,
    spoken,
    zoom,
    lit = null,
    point,
  }: {
    rows: readonly {
      readonly key: string
      readonly name: string
      readonly means: Float32Array
    }[]
    raster: { readonly fromMs: number; readonly stepMs: number; readonly columns: number }
    low: number
    high: number
    say: (value: number) => string
    nowMs: number
    timeZone: string
    spoken: string
    zoom: (fromMs: number, toMs: number) => void
    /** The row that is lit, by its key. */
    lit?: string | null
    point: (key: string | null) => void
  } = $props()

  const MOST_TICKS = 8
  /** Rows are as high as there is room for; names stand where they can be read. */
  const rowPx = $derived(Math.max(3, Math.min(18, Math.floor(520 / Math.max(1, rows.length)))))
  const hasNames = $derived(rowPx >= 12)
  const left = $derived(hasNames ? 150 : 8)
  const heightPx = $derived(rows.length * rowPx + 22)
  let canvas = $state<HTMLCanvasElement | null>(null)
  let width = $state(0)
  let themeTurns = $state(0)
  let under = $state.raw<{ row: number; column: number } | null>(null)
  let draggedFrom = $state<number | null>(null)

  $effect(() => {
    const onTheme = (): void => void (themeTurns += 1)
    addEventListener('rack:theme', onTheme)
    return () => removeEventListener('rack:theme', onTheme)
  })
  $effect(() => {
    void themeTurns
    if (canvas === null || width === 0) return
    const pen = canvas.getContext('2d')
    if (pen === null) return
    const scale = devicePixelRatio || 1
    canvas.width = Math.round(width * scale)
    canvas.height = Math.round(heightPx * scale)
    pen.scale(scale, scale)
    draw(pen)
  })

  /** Mixes two colours written as #rrggbb or #rgb. */
  function mixed(from: string, to: string, share: number): string {
    const long = (text: string): string => (text.length === 4 ? text.replaceAll(/[^#]/g, '$&$&') : text)
    const part = (text: string, at: number): number => Number.parseInt(long(text).slice(at, at + 2), 16)
    const channels = [1, 3, 5].map((at) =>
      Math.round(part(from, at) + (part(to, at) - part(from, at)) * share),
    )
    return `rgb(${channels.join(' ')})`
  }

  function draw(pen: CanvasRenderingContext2D): void {
    const style = getComputedStyle(document.documentElement)
    const token = (name: string): string => style.getPropertyValue(name).trim()
    const shades = Array.from({ length: 33 }, (_, step) => mixed(token('--sheet'), token('--s1'), step / 32))
    const gap = token('--rule-2')
    const cell = (width - left) / raster.columns
    pen.clearRect(0, 0, width, heightPx)
    pen.font = '11px "Archivo Variable", sans-serif'
    pen.textBaseline = 'middle'
    rows.forEach(({ name, means }, row) => {
      const top = row * rowPx
      for (let column = 0; column < raster.columns; column += 1) {
        const value = means[column] ?? NaN
        const isHeard = !Number.isNaN(value)
        const share = isHeard ? Math.min(1, Math.max(0, (value - low) / (high - low || 1))) : 0
        pen.fillStyle = !isHeard ? gap : shades[Math.round(share * 32)]!
        const from = Math.round(left + column * cell)
        const to = Math.round(left + (column + 1) * cell)
        // What was not heard is a thin line, and no cell.
        if (!isHeard) pen.fillRect(from, top + rowPx / 2, to - from, 1)
        else pen.fillRect(from, top, to - from, rowPx - (rowPx > 5 ? 1 : 0))
      }
      if (hasNames) {
        pen.fillStyle = token('--ink')
        pen.fillText(shortName(pen, name), 0, top + rowPx / 2)
      }
    })
    pen.fillStyle = token('--ink-3')
    const toMs = raster.fromMs + raster.columns * raster.stepMs
    for (const atMs of timeTicks(raster.fromMs, toMs, timeZone, MOST_TICKS)) {
      const words = formatTick(atMs, { fromMs: raster.fromMs, toMs }, timeZone)
      const x = left + ((atMs - raster.fromMs) / (toMs - raster.fromMs)) * (width - left)
      const half = pen.measureText(words).width / 2
      pen.fillRect(Math.round(x), rows.length * rowPx, 1, 4)
      pen.fillText(words, Math.min(width - 2 * half, Math.max(left, x - half)), rows.length * rowPx + 13)
    }
  }

  function shortName(pen: CanvasRenderingContext2D, name: string): string {
    if (pen.measureText(name).width <= left - 8) return name
    let short = name
    while (short.length > 3 && pen.measureText(`${short}…`).width > left - 8) short = short.slice(0, -1)
    return `${short}…`
  }

  function at(event: PointerEvent): { row: number; column: number } | null {
    const box = canvas!.getBoundingClientRect()
    const row = Math.floor((event.clientY - box.top) / rowPx)
    const column = Math.floor(((event.clientX - box.left - left) / (width - left)) * raster.columns)
    return row < 0 || row >= rows.length || column < 0 || column >= raster.columns ? null : { row, column }
  }
  function move(event: PointerEvent): void {
    under = at(event)
    point(under === null ? null : rows[under.row]!.key)
  }
  function up(event: PointerEvent): void {
    const to = at(event)?.column
    if (draggedFrom !== null && to !== undefined && Math.abs(to - draggedFrom) > 0) {
      const [first, last] = [Math.min(draggedFrom, to), Math.max(draggedFrom, to) + 1]
      zoom(raster.fromMs + first * raster.stepMs, raster.fromMs + last * raster.stepMs)
    }
    draggedFrom = null
  }
  function leave(): void {
    under = null
    point(null)
  }
  const down = (event: PointerEvent): void => void (draggedFrom = at(event)?.column ?? null)
  /** The table says the same to whoever has no pointer. */
  function pointed(node: HTMLCanvasElement): () => void {
    node.addEventListener('pointermove', move)
    node.addEventListener('pointerleave', leave)
    node.addEventListener('pointerdown', down)
    node.addEventListener('pointerup', up)
    return () => {
      node.removeEventListener('pointermove', move)
      node.removeEventListener('pointerleave', leave)
      node.removeEventListener('pointerdown', down)
      node.removeEventListener('pointerup', up)
    }
  }
  const told = $derived.by(() => {
    const row = under === null ? undefined : rows[under.row]
    if (under === null || row === undefined) {
      const own = rows.find(({ key }) => key === lit)
      return own === undefined ? `${say(low)} is pale, ${say(high)} is dark. Drag over it to zoom.` : own.name
    }
    const value = row.means[under.column] ?? NaN
    const fromMs = raster.fromMs + under.column * raster.stepMs
    return `${row.name}, ${formatMoment(fromMs, nowMs, timeZone)} to ${formatMoment(fromMs + raster.stepMs, nowMs, timeZone)}: ${Number.isNaN(value) ? 'not heard' : `${say(value)} on average`}`
  })
</script>

<p class="text-ink-2 mb-1 truncate text-xs" data-testid="heat-told">{told}</p>
<div class="relative max-h-[560px] overflow-y-auto" role="img" aria-label={spoken} bind:clientWidth={width}>
  <canvas
    bind:this={canvas}
    {@attach (node) => {
      node.style.width = `${width}px`
      node.style.height = `${heightPx}px`
    }}
    {@attach pointed}
    data-testid="heat"
  ></canvas>
</div>
