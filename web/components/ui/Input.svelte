<script lang="ts">
  import { untrack } from 'svelte'
  import type { ClassValue, HTMLInputAttributes } from 'svelte/elements'
  import Field, { type FieldProps, type ForControl } from './Field.svelte'
  import { Standing } from './standing.svelte'
  import { FIELD } from './looks'

  /** A line of text. What is typed before the page is ready stays. */
  let {
    label,
    help,
    error,
    class: looks,
    value = $bindable(),
    defaultValue,
    required = false,
    maxlength,
    size,
    unit,
    ...rest
  }: Omit<HTMLInputAttributes, 'class' | 'required' | 'maxlength' | 'size'> &
    FieldProps & {
      class?: ClassValue
      required?: boolean
      maxlength?: number | string
      size?: number | string
      /** Stands after what is typed: “rpm”, “s”. */
      unit?: string | undefined
    } = $props()
  const standing = new Standing<unknown>(
    untrack(() => (defaultValue ?? value ?? undefined) as unknown),
    () => defaultValue,
    { get: () => value, put: (next) => (value = next) },
  )
</script>

{#snippet line(given: ForControl)}
  <input
    inputmode={unit === undefined ? undefined : 'decimal'}
    {...given}
    {...rest}
    maxlength={maxlength === undefined ? undefined : Number(maxlength)}
    size={size === undefined ? undefined : Number(size)}
    aria-required={required || undefined}
    defaultValue={standing.value as string}
    bind:value
    class={[FIELD, looks]}
  />
{/snippet}

<Field {label} {help} {error} {required} name={rest.name}>
  {#snippet children(given)}
    {#if unit === undefined}
      {@render line(given)}
    {:else}
      <span class="flex items-center gap-1.5">
        {@render line(given)}
        <span class="text-ink-2 text-xs">{unit}</span>
      </span>
    {/if}
  {/snippet}
</Field>
