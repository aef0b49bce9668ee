<script lang="ts">
  import { AlertDialog } from 'bits-ui'
  import { tick } from 'svelte'
  import type { ClassValue } from 'svelte/elements'
  import Button, { type Look } from './Button.svelte'
  import { OVERLAY } from './looks'

  /** A button that asks again before it sends its form: what it does cannot be undone. */
  let {
    label,
    question,
    consequence,
    act,
    look = 'plain',
    class: looks,
    formaction,
    name,
    value,
    disabled = false,
    title,
    'aria-label': ariaLabel,
  }: {
    label: string
    question: string
    /** What becomes of it, in a sentence. */
    consequence?: string
    /** The verb of the button that does it. */
    act: string
    look?: Look
    class?: ClassValue
    formaction?: string
    name?: string
    value?: string
    disabled?: boolean
    title?: string
    'aria-label'?: string
  } = $props()
  let isOpen = $state(false)
  let button = $state<HTMLElement>()
  let isSure = false

  function ask(event: MouseEvent): void {
    if (isSure) return
    event.preventDefault()
    isOpen = true
  }
  async function send(): Promise<void> {
    isOpen = false
    isSure = true
    await tick()
    button?.click()
    isSure = false
  }
</script>

<Button
  bind:element={button}
  {look}
  class={looks}
  {formaction}
  {name}
  {value}
  {disabled}
  {title}
  aria-label={ariaLabel}
  onclick={ask}>{label}</Button
>
<AlertDialog.Root bind:open={isOpen}>
  <AlertDialog.Portal>
    <AlertDialog.Overlay class={OVERLAY} />
    <AlertDialog.Content
      class="border-ink bg-sheet fixed top-1/2 left-1/2 z-40 grid w-[min(28rem,92vw)] -translate-x-1/2 -translate-y-1/2 gap-3 border p-5"
    >
      <AlertDialog.Title class="text-[15px] font-[620]">{question}</AlertDialog.Title>
      {#if consequence !== undefined}<AlertDialog.Description class="text-ink-2"
          >{consequence}</AlertDialog.Description
        >{/if}
      <div class="flex justify-end gap-2">
        <AlertDialog.Cancel>
          {#snippet child({ props })}<Button {...props}>Cancel</Button>{/snippet}
        </AlertDialog.Cancel>
        <AlertDialog.Action>
          {#snippet child({ props })}<Button {...props} look="danger" onclick={() => void send()}
              >{act}</Button
            >{/snippet}
        </AlertDialog.Action>
      </div>
    </AlertDialog.Content>
  </AlertDialog.Portal>
</AlertDialog.Root>
