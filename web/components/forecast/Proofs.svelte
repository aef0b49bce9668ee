<script lang="ts">
  import type { Proof } from '#core/forecast'
  import { formatDate } from '#core/units'
  import Panel from '../ui/Panel.svelte'

  /** How right past forecasts have been: the band that was said, and what came. */
  let {
    proofs,
    amount,
    timeZone,
  }: { proofs: readonly Proof[]; amount: (value: number) => string; timeZone: string } = $props()
  const held = $derived(proofs.filter(({ low, high, came }) => low <= came && came <= high).length)
  const bounds = $derived({
    low: Math.min(...proofs.flatMap(({ low, came }) => [low, came])),
    high: Math.max(...proofs.flatMap(({ high, came }) => [high, came])),
  })
  const y = (value: number): number => 90 - (80 * (value - bounds.low)) / (bounds.high - bounds.low || 1)
  const x = (index: number): number => ((index + 0.5) / proofs.length) * 100
</script>

<Panel title="How right it has been" note="forecasts for 30 days ahead, 15 days apart">
  {#if proofs.length === 0}
    <p class="text-ink-2 text-xs">Too early to say how right.</p>
  {:else}
    <p>
      Of the last {proofs.length} forecasts the 80 % band held in {held}.
    </p>
    <svg class="mt-1 h-24 w-full" role="img" aria-label="Bands and what came">
      {#each proofs as { forMs, low, high, came }, index (forMs)}
        {@const isHeld = low <= came && came <= high}
        <g>
          <title
            >{formatDate(forMs, timeZone)}: {amount(low)} to {amount(high)} said, {amount(came)} came</title
          >
          <rect
            x="{x(index) - 2}%"
            y="{y(high)}%"
            width="4%"
            height="{Math.max(1.5, y(low) - y(high))}%"
            class={isHeld ? 'fill-rule-2 stroke-ink-3' : 'fill-warn-soft stroke-warn'}
          />
          <circle cx="{x(index)}%" cy="{y(came)}%" r="3" class="fill-ink" />
        </g>
      {/each}
    </svg>
  {/if}
</Panel>
