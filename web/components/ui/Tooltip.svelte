<script lang="ts">
  import { Tooltip } from 'bits-ui'
  import type { Snippet } from 'svelte'
  import type { ClassValue } from 'svelte/elements'

  /** What a mark means, on pointing at it and when it has the focus. */
  let {
    text,
    class: looks,
    children,
  }: { text: string | Snippet; class?: ClassValue; children: Snippet } = $props()
</script>

<Tooltip.Provider delayDuration={150}>
  <Tooltip.Root>
    <Tooltip.Trigger type="button" class={['cursor-default', looks]}>{@render children()}</Tooltip.Trigger>
    <Tooltip.Portal>
      <Tooltip.Content class="bg-ink text-sheet z-50 max-w-80 px-2.5 py-1.5 text-xs" sideOffset={4}>
        {#if typeof text === 'string'}{text}{:else}{@render text()}{/if}
      </Tooltip.Content>
    </Tooltip.Portal>
  </Tooltip.Root>
</Tooltip.Provider>
