<script lang="ts">
  import { formatDate } from '#core/units'

  /** Day by day, how much of what was promised was kept: drawn is only what was not. */
  let {
    days,
    timeZone,
  }: {
    days: readonly { readonly fromMs: number; readonly down: number; readonly blind: number }[]
    timeZone: string
  } = $props()
  const WIDE = 10
  const HIGH = 22
  /** Even a minute of it is seen. */
  const LEAST = 3
  const high = (share: number): number => (share === 0 ? 0 : Math.max(LEAST, share * HIGH))
  const percent = (share: number): string =>
    share < 0.01 ? `${(share * 100).toFixed(2)} %` : `${Math.round(share * 100)} %`
  const told = ({ fromMs, down, blind }: (typeof days)[number]): string =>
    `From ${formatDate(fromMs, timeZone)}: ${
      down === 0 ? 'no outage' : `down for ${percent(down)}`
    }${blind === 0 ? '' : `, not heard for ${percent(blind)}`}`
  const bad = $derived(days.filter(({ down }) => down > 0).length)
</script>

<svg
  viewBox="0 0 {days.length * WIDE} {HIGH + 2}"
  class="h-6 w-full max-w-72"
  role="img"
  aria-label="{days.length} days, with an outage on {bad === 0 ? 'none' : bad}"
  preserveAspectRatio="none"
>
  <line x1="0" x2={days.length * WIDE} y1={HIGH + 1} y2={HIGH + 1} class="stroke-rule" />
  {#each days as day, index (day.fromMs)}
    <g>
      <title>{told(day)}</title>
      <rect x={index * WIDE} y="0" width={WIDE - 2} height={HIGH + 1} class="fill-rule-2" />
      {#if day.blind > 0}
        <rect
          x={index * WIDE}
          y={HIGH + 1 - high(day.blind)}
          width={WIDE - 2}
          height={high(day.blind)}
          class="fill-rule"
        />
      {/if}
      {#if day.down > 0}
        <rect
          x={index * WIDE}
          y={HIGH + 1 - high(day.down)}
          width={WIDE - 2}
          height={high(day.down)}
          class="fill-crit"
        />
      {/if}
    </g>
  {/each}
</svg>
