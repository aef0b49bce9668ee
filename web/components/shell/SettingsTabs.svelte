<script lang="ts">
  import { page } from '$app/state'

  const TABS = [
    { href: '/settings', label: 'Accounts' },
    { href: '/settings/directory', label: 'Directory' },
    { href: '/settings/tokens', label: 'Tokens' },
    { href: '/settings/credentials', label: 'Credentials' },
    { href: '/settings/space', label: 'Space' },
    { href: '/settings/measures', label: 'Measures' },
    { href: '/settings/record', label: 'Audit record' },
  ]
</script>

<nav class="flex gap-4" aria-label="Settings">
  {#each TABS as { href, label } (href)}
    {@const isHere = page.url.pathname === href}
    <a
      {href}
      class="pb-0.5 {isHere ? 'border-ink border-b-2 font-[640]' : 'text-ink-2 hover:underline'}"
      aria-current={isHere ? 'page' : undefined}>{label}</a
    >
  {/each}
</nav>
