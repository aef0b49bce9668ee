<script lang="ts">
  import type { Snippet } from 'svelte'

  /**
   * Two panes side by side and the bar between them, moved by the pointer or by the arrow keys (a window splitter of the
   * ARIA authoring practices); its place is kept in this browser. Below 1024 px the panes stand one below the other.
   */
  let {
    name,
    share = 75,
    least = 25,
    most = 85,
    first,
    second,
  }: {
    /** What the bar divides: its accessible name, and under which its place is kept. */
    name: string
    /** Of the first pane, in percent of the width. */
    share?: number
    least?: number
    most?: number
    first: Snippet
    second: Snippet
  } = $props()

  let moved = $state<number | null>(null)
  const now = $derived(moved ?? share)
  let both = $state<HTMLElement>()
  let isHeld = $state(false)
  const kept = $derived(`split of ${name}`)
  $effect(() => {
    const saved = Number(localStorage.getItem(kept))
    if (saved >= least && saved <= most) moved = saved
  })

  function move(next: number): void {
    moved = Math.round(Math.min(most, Math.max(least, next)))
    localStorage.setItem(kept, String(moved))
  }
  function drag(event: PointerEvent): void {
    if (!isHeld || both === undefined) return
    const { left, width } = both.getBoundingClientRect()
    move(((event.clientX - left) / width) * 100)
  }
  function press(event: KeyboardEvent): void {
    const next = { ArrowLeft: now - 2, ArrowRight: now + 2, Home: least, End: most }[event.key]
    if (next === undefined) return
    event.preventDefault()
    move(next)
  }
</script>

<div
  bind:this={both}
  class="grid grid-cols-1 items-start gap-y-4 lg:grid-cols-[minmax(0,var(--split,3fr))_17px_minmax(0,1fr)]"
  {@attach (node) => node.style.setProperty('--split', `${now / (100 - now)}fr`)}
>
  {@render first()}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -- a separator with a value is a control -->
  <div
    role="separator"
    aria-orientation="vertical"
    aria-label={name}
    aria-valuenow={now}
    aria-valuemin={least}
    aria-valuemax={most}
    tabindex="0"
    class={[
      'group hidden cursor-col-resize touch-none justify-center self-stretch lg:flex',
      isHeld && 'select-none',
    ]}
    onpointerdown={(event) => {
      event.preventDefault()
      event.currentTarget.focus()
      event.currentTarget.setPointerCapture(event.pointerId)
      isHeld = true
    }}
    onpointermove={drag}
    onpointerup={() => (isHeld = false)}
    onpointercancel={() => (isHeld = false)}
    ondblclick={() => move(share)}
    onkeydown={press}
  >
    <span
      class={['w-px', isHeld ? 'bg-accent' : 'group-hover:bg-rule group-focus:bg-accent bg-transparent']}
      aria-hidden="true"
    ></span>
  </div>
  {@render second()}
</div>
