<script lang="ts">
  import { page } from '$app/state'

  /** Screens that belong together. The first stands for its own address only, the others for all below theirs. */
  let { tabs, label }: { tabs: readonly (readonly [href: string, label: string])[]; label: string } = $props()
  const isHere = (href: string): boolean =>
    href === tabs[0]?.[0] ? page.url.pathname === href : page.url.pathname.startsWith(href)
</script>

<nav class="border-rule flex gap-5 border-b" aria-label={label}>
  {#each tabs as [href, word] (href)}
    <a
      {href}
      aria-current={isHere(href) ? 'page' : undefined}
      class="aria-[current]:border-ink text-ink-2 aria-[current]:text-ink -mb-px border-b-2 border-transparent pb-1.5 font-[580] hover:underline"
      >{word}</a
    >
  {/each}
</nav>
