<script lang="ts">
  import { untrack } from 'svelte'
  import type { ClassValue, HTMLTextareaAttributes } from 'svelte/elements'
  import Field, { type FieldProps } from './Field.svelte'
  import { Standing } from './standing.svelte'
  import { FIELD } from './looks'

  /** Several lines of text. */
  let {
    label,
    help,
    error,
    class: looks,
    value = $bindable(),
    defaultValue,
    required = false,
    maxlength,
    rows,
    ...rest
  }: Omit<HTMLTextareaAttributes, 'class' | 'required' | 'maxlength' | 'rows'> &
    FieldProps & {
      class?: ClassValue
      required?: boolean
      maxlength?: number | string
      rows?: number | string
    } = $props()
  const standing = new Standing<HTMLTextareaAttributes['value']>(
    untrack(() => defaultValue ?? value ?? undefined),
    () => defaultValue,
    { get: () => value, put: (next) => (value = next) },
  )
</script>

<Field {label} {help} {error} {required} name={rest.name}>
  {#snippet children(given)}
    <textarea
      {...given}
      {...rest}
      maxlength={maxlength === undefined ? undefined : Number(maxlength)}
      rows={rows === undefined ? undefined : Number(rows)}
      aria-required={required || undefined}
      defaultValue={String(standing.value ?? '')}
      bind:value
      class={[FIELD, looks]}></textarea>
  {/snippet}
</Field>
