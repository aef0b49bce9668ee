<script lang="ts">
  import { Toaster } from 'svelte-sonner'

  /** Shows what is said by `toasts`: four seconds, or until it is closed where something failed. */
</script>

<Toaster
  position="bottom-right"
  class="font-sans!"
  closeButton
  containerAriaLabel="Messages"
  toastOptions={{
    unstyled: true,
    classes: {
      toast:
        'bg-sheet text-ink border-rule border-l-ink flex w-88 items-start justify-between gap-3 border border-l-[3px] px-3.5 py-2.5 text-[13px]',
      error: 'border-l-crit!',
      title: 'font-[550]',
      icon: 'hidden',
      closeButton: 'order-last shrink-0 hover:underline [&_svg]:size-3',
    },
  }}
/>
