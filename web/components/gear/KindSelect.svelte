<script lang="ts">
  import Select from '../ui/Select.svelte'
  import { GEAR_KINDS, PART_KINDS } from '#core/catalogue'

  /** A kind of gear or of part. */
  let { value = $bindable(), of, label }: { value: string; of: 'gear' | 'part'; label: string } = $props()
  const kinds = $derived(
    Object.entries(of === 'gear' ? GEAR_KINDS : PART_KINDS).map(([key, each]) => [key, each.label] as const),
  )
</script>

<Select
  class="w-full"
  {label}
  bind:value
  options={kinds.map(([key, word]) => ({ value: key, label: word }))}
/>
