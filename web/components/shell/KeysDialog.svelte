<script lang="ts">
  import { Dialog } from 'bits-ui'

  let {
    isOpen = $bindable(false),
    keys,
  }: { isOpen?: boolean; keys: readonly (readonly [string, string])[] } = $props()
</script>

<Dialog.Root bind:open={isOpen}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/40" />
    <Dialog.Content class="panel fixed top-1/2 left-1/2 z-50 w-96 -translate-x-1/2 -translate-y-1/2">
      <Dialog.Title class="panel-title">Keys</Dialog.Title>
      <dl class="grid grid-cols-[80px_1fr] gap-y-1">
        {#each keys as [key, what] (key)}
          <dt class="font-mono text-[11px]">{key}</dt>
          <dd>{what}</dd>
        {/each}
      </dl>
      <Dialog.Close class="btn mt-3">Close</Dialog.Close>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
