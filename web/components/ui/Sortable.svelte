<script lang="ts" generics="Item extends { readonly key: number }">
  import type { Snippet } from 'svelte'
  import { dragHandle, dragHandleZone } from 'svelte-dnd-action'
  import type { ClassValue } from 'svelte/elements'

  /**
   * Items whose order a person chooses: held at their handle by the pointer, or by Enter on it and the arrow keys. What is
   * typed into an item goes with it.
   */
  let {
    items = $bindable(),
    name,
    labelOf,
    class: looks,
    row,
  }: {
    items: Item[]
    /** What the items are, for those who hear the page. */
    name: string
    labelOf: (item: Item, index: number) => string
    class?: ClassValue
    row: Snippet<[Item, number]>
  } = $props()
  const FLIP_MS = 120
  /** While something is held, the list with the place where it would go. */
  let held = $state.raw<{ id: number; item: Item }[] | null>(null)
  const shown = $derived(held ?? items.map((item) => ({ id: item.key, item })))
  type Moved = CustomEvent<{ items: { id: number; item: Item }[]; info: { id: string } }>
  // The library brings an alert of its own into the page, which says nothing here: what is heard is said below.
  $effect(() => {
    const silence = (): void => document.getElementById('dnd-action-aria-alert')?.remove()
    silence()
    addEventListener('DOMContentLoaded', silence)
    return () => removeEventListener('DOMContentLoaded', silence)
  })
  /** Where what was moved stands now, for those who hear the page. */
  let heard = $state('')
  function settle({ detail }: Moved): void {
    held = null
    const at = detail.items.findIndex(({ id }) => String(id) === String(detail.info.id))
    if (at >= 0)
      heard = `${labelOf(detail.items[at]!.item, at)} is at place ${at + 1} of ${detail.items.length}.`
    items = detail.items.map(({ item }) => item)
  }
</script>

<ol
  class={looks}
  aria-label={name}
  use:dragHandleZone={{
    items: shown,
    flipDurationMs: FLIP_MS,
    dropTargetStyle: {},
    autoAriaDisabled: true,
    type: name,
  }}
  onconsider={({ detail }: Moved) => (held = detail.items)}
  onfinalize={settle}
>
  {#each shown as { id, item }, index (id)}
    <li class="grid grid-cols-[18px_minmax(0,1fr)] items-start" aria-label={labelOf(item, index)}>
      <span
        use:dragHandle
        aria-label="Move {labelOf(item, index)}"
        class="text-ink-3 mt-2 cursor-grab text-center select-none">⠿</span
      >
      {@render row(item, index)}
    </li>
  {/each}
</ol>
<p class="sr-only" aria-live="polite">{heard}</p>
