<script lang="ts">
  import Panel from '../ui/Panel.svelte'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from '../gear/sections'
  import PathDrawing from './PathDrawing.svelte'

  /** What a gear hangs on, and what hangs on it. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['hangs']>> = $props()
</script>

<Panel title="Dependencies" id="hangs">
  {#each view.sentences as sentence (sentence)}<p class="mb-1">{sentence}</p>{/each}
  <PathDrawing path={view.path} label="What {frame.gear.name} hangs on, and what hangs on it" />
</Panel>
