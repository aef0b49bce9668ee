<script lang="ts">
  import { type GearState, STATE_WORDS } from '#core/gear'

  /** A state as its shape: pennant, half-filled lozenge, dashed ring, two bars, small open ring. `label` is its word for assistive technology. */
  let {
    state,
    label = STATE_WORDS[state],
    onRail = false,
    isLarge = false,
  }: { state: GearState; label?: string; onRail?: boolean; isLarge?: boolean } = $props()
</script>

<svg
  class={['glyph', onRail && 'on-rail', isLarge && 'large']}
  viewBox="0 0 14 14"
  role="img"
  aria-label={label}
>
  {#if state === 'critical'}
    <path d="M2 1v12" class="stroke-crit" stroke-width="2" />
    <path d="M3 1.5h9.5L9.5 5l3 3.5H3z" class="fill-crit" />
  {:else if state === 'warning'}
    <path d="M7 1l6 6-6 6-6-6z" fill="none" class="stroke-warn" stroke-width="1.6" />
    <path d="M7 1l6 6-6 6z" class="fill-warn" />
  {:else if state === 'noData'}
    <circle
      cx="7"
      cy="7"
      r="5.4"
      fill="none"
      class="stroke-blind"
      stroke-width="1.6"
      stroke-dasharray="2.6 2"
    />
    <circle cx="7" cy="7" r="1.5" class="fill-blind" />
  {:else if state === 'quiet'}
    <path d="M4.5 2.5v9M9.5 2.5v9" class="stroke-ink-3" stroke-width="2" />
  {:else}
    <circle cx="7" cy="7" r="3.6" fill="none" class="stroke-ink-3" stroke-width="1.3" />
  {/if}
</svg>

<style>
  .large {
    width: 26px;
    height: 26px;
  }
  .on-rail {
    --color-crit: #ff8474;
    --color-warn: #ffb648;
    --color-blind: #bda5ee;
  }
</style>
