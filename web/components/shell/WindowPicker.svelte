<script lang="ts">
  import { Select } from 'bits-ui'
  import { WINDOWS, type WindowKey } from '#core/readings'

  let {
    key,
    ownLabel,
    choose,
  }: { key: WindowKey | 'own'; ownLabel: string; choose: (key: WindowKey) => void } = $props()

  const items = Object.entries(WINDOWS).map(([value, { label }]) => ({ value, label }))
</script>

<Select.Root type="single" value={key} onValueChange={(value) => choose(value as WindowKey)} {items}>
  <Select.Trigger class="field whitespace-nowrap" aria-label="Window of time">
    {key === 'own' ? ownLabel : WINDOWS[key].label} ▾
  </Select.Trigger>
  <Select.Portal>
    <Select.Content class="bg-sheet border-ink z-30 border p-1" sideOffset={4}>
      {#each items as { value, label } (value)}
        <Select.Item {value} {label} class="data-highlighted:bg-accent-soft cursor-pointer px-3 py-1"
          >{label}</Select.Item
        >
      {/each}
    </Select.Content>
  </Select.Portal>
</Select.Root>
