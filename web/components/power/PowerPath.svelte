<script lang="ts">
  import PanelTitle from '../ui/PanelTitle.svelte'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from '../gear/sections'
  import UpsPath from './UpsPath.svelte'

  /** The way of the power through a UPS. */
  let { view }: SectionProps<NonNullable<SectionViews['powerPath']>> = $props()
</script>

<PanelTitle>Parts</PanelTitle>
<UpsPath parts={view.parts} own={view.own} />
{#if view.alarms}<p class="text-ink-2 mt-2 text-xs">It reports: {view.alarms}.</p>{/if}
