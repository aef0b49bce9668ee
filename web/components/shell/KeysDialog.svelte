<script lang="ts">
  import Dialog from '../ui/Dialog.svelte'

  let {
    isOpen = $bindable(false),
    keys,
  }: { isOpen?: boolean; keys: readonly (readonly [string, string])[] } = $props()
</script>

<Dialog bind:open={isOpen} title="Keys">
  <dl class="grid grid-cols-[80px_1fr] gap-y-1">
    {#each keys as [key, what] (key)}
      <dt class="font-mono text-[11px]">{key}</dt>
      <dd>{what}</dd>
    {/each}
  </dl>
</Dialog>
