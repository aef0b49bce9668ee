<script lang="ts">
  import { Popover } from 'bits-ui'
  import type { Snippet } from 'svelte'
  import type { ClassValue } from 'svelte/elements'
  import { MENU } from './looks'

  /** Details beside what they belong to, on pressing it. */
  let {
    open = $bindable(false),
    label,
    class: looks,
    trigger,
    children,
  }: {
    open?: boolean
    label?: string
    class?: ClassValue
    trigger: Snippet
    children: Snippet
  } = $props()
</script>

<Popover.Root bind:open>
  <Popover.Trigger class={looks} aria-label={label}>{@render trigger()}</Popover.Trigger>
  <Popover.Portal>
    <Popover.Content class={[MENU, 'p-3']} sideOffset={4} align="start">{@render children()}</Popover.Content>
  </Popover.Portal>
</Popover.Root>
