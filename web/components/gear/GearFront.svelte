<script lang="ts">
  import PanelTitle from '../ui/PanelTitle.svelte'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import OwnReadings from './OwnReadings.svelte'
  import type { SectionProps } from './sections'
  import ServerFront from './ServerFront.svelte'

  /** A gear as its device reports it: its parts drawn, or what it measures as a whole. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['front']>> = $props()
  const hasParts = $derived(view.parts.length > 0)
</script>

<PanelTitle>
  {hasParts ? 'Parts' : 'Now'}
  <span
    >{frame.gear.kind === 'server' && hasParts
      ? 'drawn from what its controller reports · life left on drives'
      : ''}</span
  >
</PanelTitle>
{#if hasParts}
  <ServerFront parts={view.parts} pick={({ seriesIds }) => seriesIds.length > 0 && frame.pick(seriesIds)} />
{:else}
  <OwnReadings own={view.own} />
{/if}
{#if view.alarms}<p class="text-ink-2 mt-2 text-xs">It reports: {view.alarms}.</p>{/if}
