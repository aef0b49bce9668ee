<script lang="ts">
  import type { Snippet } from 'svelte'

  /** What would be here, and the one step that fills it. */
  let { text, children }: { text: string; children?: Snippet } = $props()
</script>

<div class="text-ink-2 flex flex-wrap items-center gap-3 py-2" data-testid="empty-state">
  <p>{text}</p>
  {@render children?.()}
</div>
