<script lang="ts">
  import { tick } from 'svelte'

  /**
   * What a control of several parts sends with its form. It tells the form of a change as a field of the browser does, and
   * goes back to what stood when the form is.
   */
  let {
    name,
    value,
    disabled = false,
    reset,
  }: { name?: string | undefined; value: string; disabled?: boolean; reset: () => void } = $props()
  let element = $state<HTMLInputElement>()

  export async function changed(): Promise<void> {
    await tick()
    element?.dispatchEvent(new Event('change', { bubbles: true }))
  }
  $effect(() => {
    const form = element?.form
    form?.addEventListener('reset', reset)
    return () => form?.removeEventListener('reset', reset)
  })
</script>

<input type="hidden" {name} {value} {disabled} bind:this={element} />
