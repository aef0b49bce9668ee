<script lang="ts">
  import type { Snippet } from 'svelte'
  import type { ClassValue } from 'svelte/elements'
  import { PANEL } from './looks'
  import PanelTitle from './PanelTitle.svelte'

  /** A part of a screen, with what it is in small capitals. */
  let {
    title,
    note,
    id,
    class: looks,
    'aria-label': ariaLabel,
    children,
    ...rest
  }: {
    title?: string | number | undefined
    /** Beside the title, in a few words. */
    note?: string | number | Snippet | undefined
    id?: string
    class?: ClassValue
    'aria-label'?: string
    'data-testid'?: string
    role?: 'status' | 'alert'
    'aria-live'?: 'polite'
    children: Snippet
  } = $props()
</script>

<section
  {...rest}
  {id}
  class={[PANEL, looks]}
  aria-label={ariaLabel ?? (title === undefined ? undefined : String(title))}
>
  {#if title !== undefined}
    <PanelTitle
      >{title}
      {#if note !== undefined}<span
          >{#if typeof note !== 'function'}{note}{:else}{@render note()}{/if}</span
        >{/if}</PanelTitle
    >
  {/if}
  {@render children()}
</section>
