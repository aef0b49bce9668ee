<script lang="ts">
  import { DropdownMenu } from 'bits-ui'
  import { THEMES } from '#core/accounts'

  let {
    name,
    role,
    setTheme,
    showKeys,
  }: { name: string; role: string; setTheme: (theme: string) => void; showKeys: () => void } = $props()

  const ITEM = 'data-highlighted:bg-accent-soft block w-full cursor-pointer px-3 py-1 text-left'
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="field whitespace-nowrap">{name} ▾</DropdownMenu.Trigger>
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="bg-sheet border-ink z-30 min-w-48 border p-1" sideOffset={4} align="end">
      <p class="muted px-3 py-1">May {role}</p>
      <DropdownMenu.Item class={ITEM}>
        {#snippet child({ props })}<a {...props} href="/own">Your account</a>{/snippet}
      </DropdownMenu.Item>
      {#each Object.entries(THEMES) as [theme, label] (theme)}
        <DropdownMenu.Item class={ITEM} onSelect={() => setTheme(theme)}>{label}</DropdownMenu.Item>
      {/each}
      <DropdownMenu.Item class={ITEM} onSelect={showKeys}>Keys</DropdownMenu.Item>
      <form method="POST" action="/sign-out">
        <DropdownMenu.Item class={ITEM}>
          {#snippet child({ props })}<button {...props}>Sign out</button>{/snippet}
        </DropdownMenu.Item>
      </form>
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
