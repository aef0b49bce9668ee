<script lang="ts">
  import { Combobox } from 'bits-ui'
  import { untrack } from 'svelte'
  import type { ClassValue } from 'svelte/elements'
  import Field, { type FieldProps } from './Field.svelte'
  import Hidden from './Hidden.svelte'
  import { Standing } from './standing.svelte'
  import { FIELD, groupsOf, HEADING, ITEM, matching, MENU, type Choice, optionsOf } from './looks'

  /** One of many, found by words that are typed: gear, measures, people, places. */
  let {
    options: choices,
    value = $bindable(),
    defaultValue,
    label,
    help,
    error,
    name,
    placeholder = 'Type to search',
    class: looks,
    required = false,
    disabled = false,
    'aria-label': ariaLabel,
    onchange,
  }: FieldProps & {
    options: readonly Choice[]
    /** Bound. What only stands there at first, and when it is kept anew, is the `defaultValue`. */
    value?: string
    defaultValue?: string | undefined
    name?: string
    placeholder?: string
    class?: ClassValue
    required?: boolean
    disabled?: boolean
    'aria-label'?: string
    onchange?: (value: string) => void
  } = $props()
  /** More are not drawn at once: who has so many types a word. */
  const MOST = 100
  const options = $derived(optionsOf(choices))
  // As a field of the browser does: what is not said is the first.
  const standing = new Standing<string>(
    untrack(() => value ?? defaultValue ?? options[0]?.value ?? ''),
    () => defaultValue,
    { get: () => value, put: (next) => (value = next) },
  )
  let hidden = $state<Hidden>()
  let typed = $state('')
  let isOpen = $state(false)
  const labelOf = (which: string): string => options.find((each) => each.value === which)?.label ?? ''
  const found = $derived(isOpen ? matching(options, typed) : [])
  const shown = $derived(found.slice(0, MOST))
  const labelNow = $derived(labelOf(value ?? ''))

  function choose(next: string): void {
    // What is chosen is not unchosen by being chosen again.
    if (next === '' && typed !== '') return
    typed = ''
    if (next === value) return
    value = next
    onchange?.(next)
    void hidden?.changed()
  }
</script>

<Field {label} {help} {error} {name} {required}>
  {#snippet children(given)}
    <Combobox.Root
      type="single"
      bind:value={() => value ?? '', choose}
      inputValue={labelNow}
      bind:open={isOpen}
      onOpenChange={(open) => {
        if (!open) typed = ''
      }}
      {disabled}
    >
      <Combobox.Input
        {...given}
        class={[FIELD, looks]}
        {placeholder}
        aria-label={ariaLabel}
        autocomplete="off"
        data-field={name}
        data-value={value}
        oninput={(event) => {
          typed = event.currentTarget.value
          isOpen = true
        }}
        onfocus={(event) => event.currentTarget.select()}
        onclick={() => (isOpen = true)}
        onblur={(event) => (event.currentTarget.value = labelOf(value ?? ''))}
      />
      <Combobox.Portal>
        <Combobox.Content
          class={[MENU, 'max-h-72 min-w-(--bits-combobox-anchor-width) overflow-y-auto']}
          sideOffset={3}
        >
          {#each groupsOf(shown) as group, index (index)}
            <Combobox.Group>
              {#if group.heading !== null}<Combobox.GroupHeading class={HEADING}
                  >{group.heading}</Combobox.GroupHeading
                >{/if}
              {#each group.options as option (option.value)}
                <Combobox.Item
                  value={option.value}
                  label={option.label}
                  disabled={option.disabled ?? false}
                  class={ITEM}>{option.label}</Combobox.Item
                >
              {/each}
            </Combobox.Group>
          {:else}
            <p class="text-ink-2 px-3 py-1 text-xs">No entry has these words.</p>
          {/each}
          {#if found.length > MOST}<p class="text-ink-2 px-3 py-1 text-xs">
              {found.length - MOST} more: type to narrow down.
            </p>{/if}
        </Combobox.Content>
      </Combobox.Portal>
    </Combobox.Root>
    <Hidden {name} {disabled} value={value ?? ''} bind:this={hidden} reset={() => (value = standing.value)} />
  {/snippet}
</Field>
