<script lang="ts">
  import { RadioGroup } from 'bits-ui'
  import { untrack } from 'svelte'
  import type { ClassValue } from 'svelte/elements'
  import Hidden from './Hidden.svelte'
  import type { Option } from './looks'

  /** One of a few that all stay in view. */
  let {
    options,
    value = $bindable(''),
    name,
    label,
    class: looks,
    onchange,
  }: {
    options: readonly (Option & { readonly help?: string })[]
    value?: string
    name?: string
    label: string
    class?: ClassValue
    onchange?: (value: string) => void
  } = $props()
  const id = $props.id()
  const standing = untrack(() => value)
  let hidden = $state<Hidden>()
  function choose(next: string): void {
    value = next
    onchange?.(next)
    void hidden?.changed()
  }
</script>

<RadioGroup.Root
  bind:value={() => value, choose}
  class={['grid gap-1', looks]}
  aria-label={label}
  data-field={name}
>
  {#each options as option (option.value)}
    <div class="flex items-baseline gap-2">
      <RadioGroup.Item
        value={option.value}
        id="{id}-{option.value}"
        disabled={option.disabled ?? false}
        class="border-ink-3 bg-sheet data-[state=checked]:border-ink grid size-3.5 flex-none translate-y-0.5 place-items-center rounded-full border"
      >
        {#snippet children({ checked })}{#if checked}<span class="bg-ink-2 size-2 rounded-full"
            ></span>{/if}{/snippet}
      </RadioGroup.Item>
      <label for="{id}-{option.value}"
        >{option.label}{#if option.help !== undefined}<span class="text-ink-2 ml-2 text-xs"
            >{option.help}</span
          >{/if}</label
      >
    </div>
  {/each}
</RadioGroup.Root>
<Hidden {name} {value} bind:this={hidden} reset={() => (value = standing)} />
