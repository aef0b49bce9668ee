<script lang="ts">
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from '../gear/sections'
  import UpsPath from './UpsPath.svelte'

  /** The way of the power through a UPS. */
  let { view }: SectionProps<NonNullable<SectionViews['powerPath']>> = $props()
</script>

<h2 class="panel-title">Parts</h2>
<UpsPath parts={view.parts} own={view.own} />
{#if view.alarms}<p class="muted mt-2">It reports: {view.alarms}.</p>{/if}
