<script lang="ts">
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from '../gear/sections'
  import PathDrawing from './PathDrawing.svelte'

  /** What a gear hangs on, and what hangs on it. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['hangs']>> = $props()
</script>

<section class="panel" aria-labelledby="hangs">
  <h2 class="panel-title" id="hangs">How it hangs together</h2>
  {#each view.sentences as sentence (sentence)}<p class="mb-1">{sentence}</p>{/each}
  <PathDrawing path={view.path} label="What {frame.gear.name} hangs on, and what hangs on it" />
</section>
