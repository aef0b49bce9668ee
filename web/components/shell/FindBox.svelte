<script lang="ts">
  import { FIELD } from '../ui/looks'
  import { Combobox } from 'bits-ui'

  interface Found {
    readonly label: string
    readonly what: string
    readonly href: string
  }

  let {
    find,
    go,
    input = $bindable(null),
    placeholder = 'Find gear, part, source, address',
    label = 'Find gear, part, source or address',
    shortcut = null,
    class: looks = 'max-w-85',
  }: {
    find: (words: string, signal: AbortSignal) => Promise<readonly Found[]>
    go: (href: string) => void
    input?: HTMLElement | null
    placeholder?: string
    /** What it is called where it cannot be seen. */
    label?: string
    /** The key that leads here. */
    shortcut?: string | null
    class?: string
  } = $props()

  let words = $state('')
  let found = $state.raw<readonly Found[]>([])
  let isOpen = $state(false)
  let asking: AbortController | null = null
  let timer: ReturnType<typeof setTimeout> | undefined

  function ask(text: string): void {
    words = text
    clearTimeout(timer)
    asking?.abort()
    if (text.trim() === '') {
      found = []
      return
    }
    asking = new AbortController()
    const { signal } = asking
    timer = setTimeout(() => {
      find(text, signal)
        .then((answer) => {
          found = answer
        })
        .catch(() => undefined)
    }, 120)
  }

  function choose(href: string): void {
    isOpen = false
    words = ''
    found = []
    input?.blur()
    go(href)
  }
</script>

<Combobox.Root type="single" bind:open={isOpen} value="" onValueChange={choose} inputValue={words}>
  <div class="relative w-full min-w-40 {looks}">
    <Combobox.Input
      bind:ref={input}
      class={[FIELD, 'w-full pr-8']}
      {placeholder}
      aria-label={label}
      oninput={(event) => {
        ask(event.currentTarget.value)
        isOpen = true
      }}
    />
    {#if shortcut !== null}
      <kbd
        class="text-ink-2 border-rule pointer-events-none absolute top-1.5 right-2 rounded-xs border px-1.5 font-mono text-[10px]"
        >{shortcut}</kbd
      >
    {/if}
  </div>
  <Combobox.Portal>
    {#if words.trim() !== ''}
      <Combobox.Content class="bg-sheet border-ink z-30 w-[30rem] border p-1" sideOffset={4} align="start">
        {#each found as { label, what, href } (href)}
          <Combobox.Item
            value={href}
            {label}
            class="data-highlighted:bg-accent-soft flex cursor-pointer items-baseline justify-between gap-3 px-2 py-1"
          >
            <b class="font-semibold">{label}</b><span class="text-ink-2 truncate text-xs">{what}</span>
          </Combobox.Item>
        {:else}
          <p class="text-ink-2 px-2 py-1 text-xs">Nothing here is called “{words.trim()}”.</p>
        {/each}
      </Combobox.Content>
    {/if}
  </Combobox.Portal>
</Combobox.Root>
