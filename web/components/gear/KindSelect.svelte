<script lang="ts">
  import { GEAR_KINDS, PART_KINDS } from '#core/catalogue'

  /** A kind of gear or of part. */
  let { value = $bindable(), of, label }: { value: string; of: 'gear' | 'part'; label: string } = $props()
  const kinds = $derived(
    Object.entries(of === 'gear' ? GEAR_KINDS : PART_KINDS).map(([key, each]) => [key, each.label] as const),
  )
</script>

<select class="field w-full" aria-label={label} bind:value>
  {#each kinds as [key, word] (key)}<option value={key}>{word}</option>{/each}
</select>
