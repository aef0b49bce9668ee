<script lang="ts">
  import type { HTMLInputAttributes } from 'svelte/elements'
  import Field, { type FieldProps } from './Field.svelte'

  /** A file of this machine. */
  let {
    label,
    help,
    error,
    class: looks,
    element = $bindable(),
    ...rest
  }: Omit<HTMLInputAttributes, 'type'> & FieldProps & { element?: HTMLInputElement | undefined } = $props()
</script>

<Field {label} {help} {error} name={rest.name}>
  {#snippet children(given)}
    <input
      {...given}
      {...rest}
      type="file"
      bind:this={element}
      class={[
        'file:border-ink file:bg-sheet text-ink-2 max-w-full file:mr-2 file:cursor-pointer file:rounded-xs file:border file:border-solid file:px-2 file:py-0.5 file:font-[550]',
        looks,
      ]}
    />
  {/snippet}
</Field>
