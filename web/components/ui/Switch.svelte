<script lang="ts">
  import { Switch } from 'bits-ui'
  import { untrack } from 'svelte'
  import { Standing } from './standing.svelte'
  import Field, { type FieldProps } from './Field.svelte'

  /** On or off, at once. */
  let {
    checked = $bindable(),
    defaultChecked,
    label,
    help,
    error,
    disabled = false,
    'aria-label': ariaLabel,
    onchange,
  }: FieldProps & {
    checked?: boolean
    defaultChecked?: boolean | undefined
    disabled?: boolean
    'aria-label'?: string
    onchange?: (checked: boolean) => void
  } = $props()
  new Standing<boolean>(
    untrack(() => checked ?? defaultChecked ?? false),
    () => defaultChecked,
    { get: () => checked, put: (next) => (checked = next) },
  )
</script>

<Field {label} {help} {error} inline>
  {#snippet children(given)}
    <Switch.Root
      {...given}
      bind:checked
      onCheckedChange={(next) => onchange?.(next)}
      {disabled}
      aria-label={ariaLabel}
      class="border-ink-3 bg-sheet data-[state=checked]:bg-accent data-[state=checked]:border-accent inline-flex h-4 w-7 flex-none items-center rounded-[3px] border p-px"
    >
      <Switch.Thumb
        class="bg-ink-3 data-[state=checked]:bg-sheet block h-full w-3 rounded-[1px] data-[state=checked]:translate-x-3"
      />
    </Switch.Root>
  {/snippet}
</Field>
