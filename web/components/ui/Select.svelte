<script lang="ts">
  import { Select } from 'bits-ui'
  import { untrack } from 'svelte'
  import type { ClassValue } from 'svelte/elements'
  import Field, { type FieldProps } from './Field.svelte'
  import Hidden from './Hidden.svelte'
  import { Standing } from './standing.svelte'
  import { FIELD, groupsOf, HEADING, ITEM, MENU, type Choice, optionsOf } from './looks'

  /** One of a few. Of many, a Combobox. */
  let {
    options: choices,
    value = $bindable(),
    defaultValue,
    label,
    help,
    error,
    name,
    placeholder = 'Choose',
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
  const options = $derived(optionsOf(choices))
  // As a field of the browser does: what is not said is the first.
  const standing = new Standing<string>(
    untrack(() => value ?? defaultValue ?? options[0]?.value ?? ''),
    () => defaultValue,
    { get: () => value, put: (next) => (value = next) },
  )
  let hidden = $state<Hidden>()
  const chosen = $derived(options.find((each) => each.value === value))

  function choose(next: string): void {
    if (next === value) return
    value = next
    onchange?.(next)
    void hidden?.changed()
  }
</script>

<Field {label} {help} {error} {name} {required}>
  {#snippet children(given)}
    <Select.Root
      type="single"
      bind:value={() => value ?? '', choose}
      items={options.map((each) => ({ ...each, disabled: each.disabled ?? false }))}
      {disabled}
    >
      <Select.Trigger
        {...given}
        class={[FIELD, 'flex cursor-pointer items-center justify-between gap-2 text-left', looks]}
        aria-label={ariaLabel}
        data-field={name}
        data-value={value}
      >
        <span class={['truncate', chosen === undefined && 'text-ink-3']}>{chosen?.label ?? placeholder}</span>
        <span class="text-ink-3" aria-hidden="true">▾</span>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          class={[
            MENU,
            'max-h-(--bits-select-content-available-height) min-w-(--bits-select-anchor-width) overflow-y-auto',
          ]}
          sideOffset={3}
        >
          <Select.Viewport>
            {#each groupsOf(options) as group, index (index)}
              <Select.Group>
                {#if group.heading !== null}<Select.GroupHeading class={HEADING}
                    >{group.heading}</Select.GroupHeading
                  >{/if}
                {#each group.options as option (option.value)}
                  <Select.Item
                    value={option.value}
                    label={option.label}
                    disabled={option.disabled ?? false}
                    class={ITEM}
                  >
                    {#snippet children({ selected })}
                      <span class="w-3" aria-hidden="true">{selected ? '✓' : ''}</span>{option.label}
                    {/snippet}
                  </Select.Item>
                {/each}
              </Select.Group>
            {/each}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
    <Hidden {name} {disabled} value={value ?? ''} bind:this={hidden} reset={() => (value = standing.value)} />
  {/snippet}
</Field>
