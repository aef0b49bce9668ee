<script lang="ts">
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import OwnReadings from './OwnReadings.svelte'
  import type { SectionProps } from './sections'
  import ServerFront from './ServerFront.svelte'

  /** A gear as its device reports it: its parts drawn, or what it measures as a whole. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['front']>> = $props()
  const hasParts = $derived(view.parts.length > 0)
</script>

<h2 class="panel-title">
  {hasParts ? 'Parts' : 'Now'}
  <span
    >{frame.gear.kind === 'server' && hasParts
      ? 'drawn from what its controller reports · life left on drives'
      : ''}</span
  >
</h2>
{#if hasParts}
  <ServerFront parts={view.parts} pick={({ seriesIds }) => seriesIds.length > 0 && frame.pick(seriesIds)} />
{:else}
  <OwnReadings own={view.own} />
{/if}
{#if view.alarms}<p class="muted mt-2">It reports: {view.alarms}.</p>{/if}
