<script
  lang="ts"
  generics="Item extends { readonly href: string; readonly label: string; readonly isCurrent: boolean }"
>
  import type { Snippet } from 'svelte'

  /** A choice of a few views, each an address of its own. */
  let { label, items, mark }: { label: string; items: readonly Item[]; mark?: Snippet<[Item]> } = $props()
</script>

<nav class="border-rule bg-sheet inline-flex rounded-[2px] border" aria-label={label}>
  {#each items as item, index (item.href)}
    <a
      href={item.href}
      aria-current={item.isCurrent ? 'page' : undefined}
      class={[
        'text-ink-2 aria-[current]:bg-ink aria-[current]:text-sheet not-aria-[current]:hover:bg-accent-soft inline-flex items-center gap-1.5 px-[11px] py-1 text-xs font-[550] whitespace-nowrap',
        index > 0 && 'border-rule border-l',
      ]}
    >
      {item.label}
      {@render mark?.(item)}
    </a>
  {/each}
</nav>
