<script lang="ts">
  import { type Snippet, untrack } from 'svelte'
  import { PANEL } from './looks'

  /**
   * Something folded away under a title. `opens` opens or folds it when it changes; in between it is as the person left
   * it, whatever else is drawn anew.
   */
  let {
    opens = false,
    title,
    children,
    class: looks = '',
    titleClass = '',
    isPanel = false,
  }: {
    opens?: boolean
    title: Snippet
    children: Snippet
    class?: string
    titleClass?: string
    isPanel?: boolean
  } = $props()
  const wanted = $derived(opens)
  let isOpen = $state(untrack(() => opens))
  $effect(() => {
    const next = wanted
    untrack(() => (isOpen = next))
  })
</script>

<details class={[isPanel && PANEL, looks]} bind:open={isOpen}>
  <summary class="cursor-pointer {titleClass}">{@render title()}</summary>
  {@render children()}
</details>
