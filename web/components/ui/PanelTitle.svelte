<script lang="ts">
  import type { Snippet } from 'svelte'
  import type { ClassValue } from 'svelte/elements'

  /** What a part of a screen is, in small capitals; beside it a span in plain letters. */
  let {
    id,
    class: looks,
    children,
  }: { id?: string | undefined; class?: ClassValue; children: Snippet } = $props()
</script>

<h2
  {id}
  class={[
    'text-ink-2 [&>span]:text-ink-3 mb-2 flex items-baseline justify-between gap-3 text-[11px] font-[650] tracking-[0.09em] uppercase [&>span]:font-[450] [&>span]:tracking-normal [&>span]:normal-case',
    looks,
  ]}
>
  {@render children()}
</h2>
