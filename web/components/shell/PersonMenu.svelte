<script lang="ts">
  import { DropdownMenu } from 'bits-ui'
  import { THEMES } from '#core/accounts'
  import Button from '../ui/Button.svelte'
  import Menu from '../ui/Menu.svelte'

  let {
    name,
    role,
    setTheme,
    showKeys,
  }: { name: string; role: string; setTheme: (theme: string) => void; showKeys: () => void } = $props()

  const entries = $derived([
    { label: 'Your account', href: '/own' },
    ...Object.entries(THEMES).map(([theme, label]) => ({ label, act: () => setTheme(theme) })),
    { label: 'Keys', act: showKeys },
  ])
</script>

<Menu label={name} {entries}>
  {#snippet head()}<p class="text-ink-2 px-3 py-1 text-xs">May {role}</p>{/snippet}
  {#snippet foot(look)}
    <form method="POST" action="/sign-out">
      <DropdownMenu.Item class={look}>
        {#snippet child({ props })}<Button {...props} look="bare">Sign out</Button>{/snippet}
      </DropdownMenu.Item>
    </form>
  {/snippet}
</Menu>
