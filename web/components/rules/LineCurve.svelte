<script lang="ts">
  import { formatQuantity, type Quantity, type Severity, type Stretch } from '#core/rules'
  import { formatMoment } from '#core/units'

  /** A stored curve with lines that are moved by hand: dragged, or by the arrow keys. */
  let {
    points,
    fromMs,
    toMs,
    of,
    lines,
    stretches,
    timeZone,
    move,
  }: {
    points: readonly (readonly [atMs: number, value: number])[]
    fromMs: number
    toMs: number
    of: Quantity
    lines: readonly { readonly severity: Severity; readonly at: number }[]
    stretches: readonly Stretch[]
    timeZone: string
    move: (severity: Severity, at: number) => void
  } = $props()

  const HEIGHT = 190
  const LEFT = 62
  const BOTTOM = 18
  let width = $state(700)
  let svg = $state<SVGSVGElement | null>(null)
  let moving = $state<Severity | null>(null)

  const values = $derived([...points.map(([, value]) => value), ...lines.map(({ at }) => at)])
  const room = $derived((Math.max(...values) - Math.min(...values) || 1) * 0.06)
  const low = $derived(Math.min(...values) - room)
  const high = $derived(Math.max(...values) + room)
  const x = $derived((atMs: number) => LEFT + ((atMs - fromMs) / (toMs - fromMs || 1)) * (width - LEFT - 6))
  const y = $derived((value: number) => 6 + ((high - value) / (high - low)) * (HEIGHT - BOTTOM - 10))
  const path = $derived(
    points
      .map(([atMs, value], index) => `${index === 0 ? 'M' : 'L'}${x(atMs).toFixed(1)} ${y(value).toFixed(1)}`)
      .join(''),
  )
  const step = $derived((high - low) / 100)
  const ticks = $derived([low + room, (low + high) / 2, high - room])

  /** To what a hand can set: three digits of what is seen. */
  const tidy = (value: number): number => {
    const grain = 10 ** Math.floor(Math.log10(step || 1))
    return Number((Math.round(value / grain) * grain).toPrecision(10))
  }
  function drag(event: PointerEvent): void {
    if (moving === null || svg === null) return
    const top = event.clientY - svg.getBoundingClientRect().top
    move(moving, tidy(high - ((top - 6) / (HEIGHT - BOTTOM - 10)) * (high - low)))
  }
  function key(event: KeyboardEvent, severity: Severity, at: number): void {
    const turn = { ArrowUp: 1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[event.key]
    if (turn === undefined) return
    event.preventDefault()
    move(severity, tidy(at + turn * step))
  }
</script>

<div bind:clientWidth={width}>
  <svg
    bind:this={svg}
    {width}
    height={HEIGHT}
    role="group"
    aria-label="Stored readings with the lines of this rule"
    onpointermove={drag}
    onpointerup={() => (moving = null)}
    onpointerleave={() => (moving = null)}
    data-testid="line-curve"
  >
    {#each ticks as tick (tick)}
      <path d="M{LEFT} {y(tick)}H{width}" class="stroke-rule-2" />
      <text x={LEFT - 6} y={y(tick) + 3} text-anchor="end" class="fill-ink-3 text-[10px]"
        >{formatQuantity(of, tick)}</text
      >
    {/each}
    {#each stretches as each (each.fromMs)}
      <rect
        x={x(Math.max(each.fromMs, fromMs))}
        y="6"
        width={Math.max(1.5, x(each.toMs ?? toMs) - x(Math.max(each.fromMs, fromMs)))}
        height={HEIGHT - BOTTOM - 10}
        class={each.severity === 'critical' ? 'fill-crit-soft' : 'fill-warn-soft'}
      />
    {/each}
    <path d={path} fill="none" class="stroke-ink" stroke-width="1.2" />
    {#each lines as { severity, at } (severity)}
      {@const colour = severity === 'critical' ? 'stroke-crit' : 'stroke-warn'}
      <g
        role="slider"
        tabindex="0"
        aria-label="{severity} line"
        aria-valuenow={at}
        aria-valuetext={formatQuantity(of, at)}
        aria-orientation="vertical"
        class="cursor-ns-resize"
        onpointerdown={(event) => {
          moving = severity
          event.preventDefault()
        }}
        onkeydown={(event) => key(event, severity, at)}
      >
        <path d="M{LEFT} {y(at)}H{width}" stroke="transparent" stroke-width="12" />
        <path d="M{LEFT} {y(at)}H{width}" class={colour} stroke-width="1.4" stroke-dasharray="6 3" />
        <text
          x={width - 4}
          y={y(at) - 4}
          text-anchor="end"
          class="{severity === 'critical' ? 'fill-crit' : 'fill-warn'} text-[11px] font-semibold"
          >{severity} {formatQuantity(of, at)}</text
        >
      </g>
    {/each}
    <text x={LEFT} y={HEIGHT - 4} class="fill-ink-3 text-[10px]">{formatMoment(fromMs, toMs, timeZone)}</text>
    <text x={width - 4} y={HEIGHT - 4} text-anchor="end" class="fill-ink-3 text-[10px]">now</text>
  </svg>
</div>
