<script lang="ts">
  import { DropdownMenu } from 'bits-ui'
  import type { Snippet } from 'svelte'
  import type { ClassValue } from 'svelte/elements'
  import { FIELD, ITEM, MENU } from './looks'

  /** One entry: what it does, or where it leads. */
  export interface Entry {
    readonly label: string
    readonly href?: string
    readonly act?: () => void
    readonly disabled?: boolean
  }
  /** Acts that are not worth a button each. */
  let {
    label,
    entries,
    class: looks,
    head,
    foot,
  }: {
    label: string
    entries: readonly Entry[]
    class?: ClassValue
    head?: Snippet
    foot?: Snippet<[string]>
  } = $props()
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class={[FIELD, 'whitespace-nowrap', looks]}>{label} ▾</DropdownMenu.Trigger>
  <DropdownMenu.Portal>
    <DropdownMenu.Content class={[MENU, 'min-w-48']} sideOffset={4} align="end">
      {@render head?.()}
      {#each entries as entry (entry.label)}
        {#if entry.href === undefined}
          <DropdownMenu.Item class={ITEM} disabled={entry.disabled ?? false} onSelect={() => entry.act?.()}
            >{entry.label}</DropdownMenu.Item
          >
        {:else}
          <DropdownMenu.Item class={ITEM}>
            {#snippet child({ props })}<a {...props} href={entry.href}>{entry.label}</a>{/snippet}
          </DropdownMenu.Item>
        {/if}
      {/each}
      {@render foot?.(ITEM)}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
