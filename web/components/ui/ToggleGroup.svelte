<script lang="ts">
  import { ToggleGroup } from 'bits-ui'
  import type { ClassValue } from 'svelte/elements'
  import type { Option } from './looks'

  /** One of a few ways to see the same thing. */
  let {
    options,
    value = $bindable(''),
    label,
    class: looks,
    onchange,
  }: {
    options: readonly Option[]
    value?: string
    label: string
    class?: ClassValue
    onchange?: (value: string) => void
  } = $props()
  function choose(next: string): void {
    if (next === '' || next === value) return
    value = next
    onchange?.(next)
  }
</script>

<ToggleGroup.Root
  type="single"
  bind:value={() => value, choose}
  class={['border-rule inline-flex rounded-[2px] border', looks]}
  aria-label={label}
>
  {#each options as option (option.value)}
    <ToggleGroup.Item
      value={option.value}
      disabled={option.disabled ?? false}
      class="hover:bg-accent-soft data-[state=on]:bg-ink-2 data-[state=on]:text-sheet px-2.5 py-[3px] text-xs font-[550] whitespace-nowrap"
      >{option.label}</ToggleGroup.Item
    >
  {/each}
</ToggleGroup.Root>
