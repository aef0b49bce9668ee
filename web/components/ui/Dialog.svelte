<script lang="ts">
  import { Dialog } from 'bits-ui'
  import type { Snippet } from 'svelte'
  import type { ClassValue } from 'svelte/elements'
  import Button from './Button.svelte'
  import { OVERLAY } from './looks'

  /** Something to look at or fill in, before the page goes on. */
  let {
    open = $bindable(false),
    title,
    description,
    class: looks,
    children,
  }: {
    open?: boolean
    title: string
    description?: string
    class?: ClassValue
    children: Snippet
  } = $props()
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class={OVERLAY} />
    <Dialog.Content
      class={[
        'border-ink bg-sheet fixed top-1/2 left-1/2 z-40 grid max-h-[85vh] w-[min(32rem,92vw)] -translate-x-1/2 -translate-y-1/2 gap-3 overflow-y-auto border p-5',
        looks,
      ]}
    >
      <Dialog.Title class="text-[15px] font-[620]">{title}</Dialog.Title>
      {#if description !== undefined}<Dialog.Description class="text-ink-2">{description}</Dialog.Description
        >{/if}
      {@render children()}
      <Dialog.Close>
        {#snippet child({ props })}<Button {...props} class="justify-self-end">Close</Button>{/snippet}
      </Dialog.Close>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
