<script lang="ts">
  import { Checkbox } from 'bits-ui'
  import { tick, untrack } from 'svelte'
  import type { ClassValue } from 'svelte/elements'
  import { Standing } from './standing.svelte'
  import Field, { type FieldProps } from './Field.svelte'

  /** Yes or no. With a name it sends `value` when it is ticked, and nothing when not. */
  let {
    checked = $bindable(),
    defaultChecked,
    indeterminate = false,
    label,
    help,
    error,
    name,
    value = 'on',
    disabled = false,
    class: looks,
    'aria-label': ariaLabel,
    onchange,
  }: FieldProps & {
    checked?: boolean
    defaultChecked?: boolean | undefined
    indeterminate?: boolean
    name?: string
    value?: string
    disabled?: boolean
    class?: ClassValue
    'aria-label'?: string
    onchange?: (checked: boolean) => void
  } = $props()
  const standing = new Standing<boolean>(
    untrack(() => checked ?? defaultChecked ?? false),
    () => defaultChecked,
    { get: () => checked, put: (next) => (checked = next) },
  )
  let hidden = $state<HTMLInputElement>()

  async function choose(next: boolean): Promise<void> {
    checked = next
    onchange?.(next)
    await tick()
    hidden?.dispatchEvent(new Event('change', { bubbles: true }))
  }
  const whenReset = (input: HTMLInputElement) => {
    const reset = (): void => void (checked = standing.value)
    const { form } = input
    form?.addEventListener('reset', reset)
    return () => form?.removeEventListener('reset', reset)
  }
</script>

<Field {label} {help} {error} {name} inline>
  {#snippet children(given)}
    <Checkbox.Root
      {...given}
      bind:checked={() => checked ?? false, (next) => void choose(next)}
      {indeterminate}
      {disabled}
      aria-label={ariaLabel}
      data-field={name}
      class={[
        'border-ink-3 bg-sheet data-[state=checked]:bg-ink-2 data-[state=checked]:border-ink-2 text-sheet grid size-3.5 flex-none place-items-center rounded-[2px] border text-[10px] leading-none',
        looks,
      ]}
    >
      {#snippet children({ checked: isTicked, indeterminate: isPartly })}
        <span aria-hidden="true" class={isPartly ? 'text-ink' : ''}
          >{isPartly ? '–' : isTicked ? '✓' : ''}</span
        >
      {/snippet}
    </Checkbox.Root>
    {#if name !== undefined}<input
        type="hidden"
        {name}
        {value}
        disabled={!checked || disabled}
        bind:this={hidden}
        {@attach whenReset}
      />{/if}
  {/snippet}
</Field>
