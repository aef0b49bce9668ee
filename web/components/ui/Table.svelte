<script lang="ts">
  import type { Snippet } from 'svelte'
  import type { ClassValue } from 'svelte/elements'

  /** Rows below headings, as a ledger has them. Its rows are written where it is used. */
  let {
    head,
    class: looks,
    children,
    'aria-label': ariaLabel,
  }: { head?: Snippet; class?: ClassValue; children: Snippet; 'aria-label'?: string } = $props()
</script>

<table
  aria-label={ariaLabel}
  class={[
    '[&_th]:text-ink-3 [&_td]:border-rule-2 w-full border-collapse [&_td]:border-t [&_td]:py-[7px] [&_td]:pr-2.5 [&_td]:align-top [&_th]:py-1 [&_th]:pr-2.5 [&_th]:text-left [&_th]:text-[11px] [&_th]:font-semibold',
    looks,
  ]}
>
  {#if head !== undefined}<thead>{@render head()}</thead>{/if}
  {@render children()}
</table>
