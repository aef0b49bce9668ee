<script lang="ts">
  import type { ClassValue } from 'svelte/elements'

  /**
   * A box to tick in a list of many, where a `Checkbox` a row would cost more than all else that the list shows. It has its
   * label from what stands around it, and sends nothing by itself.
   */
  let {
    checked,
    disabled = false,
    class: looks,
    'aria-label': ariaLabel,
    onchange,
  }: {
    checked: boolean
    disabled?: boolean
    class?: ClassValue
    'aria-label'?: string
    onchange?: (checked: boolean) => void
  } = $props()
</script>

<input
  type="checkbox"
  {checked}
  {disabled}
  aria-label={ariaLabel}
  class={[
    'border-ink-3 bg-sheet checked:bg-ink-2 checked:border-ink-2 text-sheet m-0 grid size-3.5 flex-none cursor-pointer appearance-none place-items-center rounded-[2px] border text-[10px] leading-none checked:before:content-["✓"]',
    looks,
  ]}
  onchange={({ currentTarget }) => onchange?.(currentTarget.checked)}
/>
