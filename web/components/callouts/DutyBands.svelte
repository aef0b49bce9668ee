<script lang="ts">
  import { formatDate, formatMoment } from '#core/units'

  interface Turn {
    readonly name: string
    readonly fromMs: number
    readonly toMs: number
    readonly isSwap: boolean
  }
  /** Who is on duty over the next weeks, as bands on an axis of days. Who stands in for another has a dashed edge. */
  let {
    turns,
    window,
    timeZone,
  }: {
    turns: readonly Turn[]
    window: { readonly fromMs: number; readonly toMs: number }
    timeZone: string
  } = $props()

  let width = $state(390)
  const x = (atMs: number): number =>
    (Math.min(Math.max(atMs, window.fromMs), window.toMs) - window.fromMs) *
    (width / (window.toMs - window.fromMs))
  const ticks = $derived(
    Array.from({ length: 3 }, (_, week) => window.fromMs + week * 7 * 86_400_000).map((atMs) => ({
      x: x(atMs),
      label: week(atMs),
    })),
  )
  const week = (atMs: number): string => formatDate(atMs, timeZone).replace(/ \d{4}$/, '')
  const first = (name: string): string => name.split(' ')[0] ?? name
</script>

<div bind:clientWidth={width}>
  <svg
    viewBox="0 0 {width} 46"
    {width}
    height="46"
    class="block"
    role="img"
    aria-label={turns
      .map(
        ({ name, fromMs, toMs }) =>
          `${name} from ${formatMoment(fromMs, window.fromMs, timeZone)} to ${formatMoment(toMs, window.fromMs, timeZone)}`,
      )
      .join('; ')}
  >
    {#each turns as turn (turn.fromMs)}
      {@const left = x(turn.fromMs)}
      {@const wide = x(turn.toMs) - left}
      <rect
        x={left + 0.75}
        y="2"
        width={Math.max(0, wide - 1.5)}
        height="24"
        class="fill-unit stroke-ink-3"
        stroke-width="1"
        stroke-dasharray={turn.isSwap ? '3 2' : undefined}
      />
      {#if wide > 30}
        <text x={left + 6} y="18" class="fill-ink" font-size="12">{first(turn.name)}</text>
      {/if}
    {/each}
    {#each ticks as tick (tick.x)}
      <line x1={tick.x + 0.5} x2={tick.x + 0.5} y1="28" y2="33" class="stroke-ink-3" />
      <text x={tick.x + 3} y="43" class="fill-ink-2" font-size="11">{tick.label}</text>
    {/each}
  </svg>
</div>
